"""Test prints: what came out of them, what that teaches, and which editions they prove."""
