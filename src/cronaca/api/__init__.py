"""The HTTP and WebSocket interface; no rules of its own."""
