"""Pictures and text pressed into a figure's surface."""
