"""What screens and the command line show: of one depth, of all of them, and of where an item is found."""
