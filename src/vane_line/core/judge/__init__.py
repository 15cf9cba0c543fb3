"""Standards, uncertainty, verdicts and corrections: what the numbers mean for the chosen material."""
