import os
import tempfile

# Nothing a test solves is kept in the user's own cache, nor taken from it; commands started by tests inherit this.
os.environ["EMPUJE_CACHE"] = tempfile.mkdtemp(prefix="empuje-tests-")
