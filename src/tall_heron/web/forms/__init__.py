"""What people type: how a field is declared, and how it is read. No page reads a number by itself."""
