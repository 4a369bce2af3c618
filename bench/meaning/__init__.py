"""Does the program know what columns mean? Tables of many trades, made by seeded generators, with what each column is
and what must never be said of it."""
