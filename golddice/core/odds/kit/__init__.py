"""What is worn: rolled stats, their scores, and whether what comes is better than what is there."""
