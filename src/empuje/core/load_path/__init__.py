"""What bears on what: beam lines, loads on their way to the ground, reduced live loads."""
