"""Rules over lists."""
