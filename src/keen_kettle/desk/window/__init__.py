"""The frame round the stations: menus, loop strip, notices, help, files in and out."""
