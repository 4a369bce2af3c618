"""What a hostile or unlucky user would try: each case failed before its mend."""
