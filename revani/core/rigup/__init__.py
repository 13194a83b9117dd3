"""From the bag to the first frame: the ordered list, cautions, what to bring."""
