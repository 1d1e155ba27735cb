"""From bytes to cells of (category, span, amount): files, roles, figures, and the one query."""
