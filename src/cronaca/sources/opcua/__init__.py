"""OPC UA: a driver that follows a server's subscriptions, and the search for servers and nodes."""

from cronaca.sources.opcua.browsing import browse, discover
from cronaca.sources.opcua.connection import Login
from cronaca.sources.opcua.driver import OpcUaDriver
from cronaca.sources.opcua.identity import Identity

__all__ = ["Identity", "Login", "OpcUaDriver", "browse", "discover"]
