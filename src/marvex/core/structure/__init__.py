"""What a table of lines is: statements, walks, movements, drivers, the names of totals."""
