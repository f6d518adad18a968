"""The window: stations of the coach's loop. It shows values and emits intents; it judges nothing."""
