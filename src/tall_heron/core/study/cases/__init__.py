"""A build at its cases: moments, what each requires, reserves, curves and what follows from them."""
