"""Pictures to work from, drawn behind the figure. They change no mesh."""
