"""What is wrong or suspicious in a model before it is analysed."""
