"""What the commands share: parameters, comparing two pictures, files written, and the log."""
