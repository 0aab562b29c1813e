import os
import tempfile

# Nothing a test solves is kept in the user's own cache, nor taken from it; commands started by tests inherit this.
os.environ["EMPUJE_CACHE"] = tempfile.mkdtemp(prefix="empuje-tests-")
# Tests run side by side, one on each core, on small frames.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")


def pytest_addoption(parser):
    parser.addoption("--mistakes", type=int, default=500, help="how many models with mistakes are tried")
    parser.addoption("--seed", type=int, default=1, help="of the mistakes")
