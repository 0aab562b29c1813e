"""What is kept on disk to answer sooner, what was written and read, and older revisions of a model."""
