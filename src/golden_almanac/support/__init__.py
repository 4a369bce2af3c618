"""What every room leans on: errors, progress, work on several processors, text that is safe to show."""
