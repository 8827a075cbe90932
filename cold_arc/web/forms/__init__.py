"""How a form's fields read typed numbers, and how they are echoed."""
