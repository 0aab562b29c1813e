"""What commands and Python share: a model read, resolved and solved, each made once and kept; verdicts, differences,
other sections."""
