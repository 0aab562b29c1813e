"""The language of model files: values with units, keys and their forms, selectors, positions, directions, includes."""
