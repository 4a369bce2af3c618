"""SQL that people write: expressions over known columns, whole SELECTs, held to reading."""
