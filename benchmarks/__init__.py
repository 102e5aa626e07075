"""Speed, as ratios against peer libraries measured in the same run."""
