"""What is most likely a slip: checks of a resolved model that need no solution. Each returns findings, never errors."""
