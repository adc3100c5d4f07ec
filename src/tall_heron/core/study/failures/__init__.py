"""What each single failure leaves, and what would show it."""
