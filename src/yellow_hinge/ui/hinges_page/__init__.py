"""The Hinges page: leaves, hinges, keyboard and alternatives."""
