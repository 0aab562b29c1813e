"""The mechanics: arrays and plain frozen records. Nothing here prints, plots or reads a model file."""
