"""The computation: periods, sides, comparisons, rules, walks. No printing, no files, no drawing."""
