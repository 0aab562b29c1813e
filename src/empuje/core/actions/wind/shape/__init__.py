"""What stands in the wind: roofs, buildings, how a wind meets them, and zones cut from their faces."""
