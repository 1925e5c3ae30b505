"""What screens and the command line show of one depth."""
