"""From bytes to typed columns or text: text files, workbooks, lists of objects, Parquet."""
