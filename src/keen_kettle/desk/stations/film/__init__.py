"""Film: the queue of clips, the inbox, whose clip it is."""
