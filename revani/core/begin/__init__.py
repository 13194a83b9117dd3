"""From what one wants to film to a shot that works: drafts, ways to make a shot work, which night."""
