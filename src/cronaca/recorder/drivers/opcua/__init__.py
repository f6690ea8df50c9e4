"""OPC UA: a driver that follows a server's subscriptions, and the search for servers and nodes."""

from cronaca.recorder.drivers.opcua.browsing import browse, discover
from cronaca.recorder.drivers.opcua.connection import Login
from cronaca.recorder.drivers.opcua.driver import OpcUaDriver
from cronaca.recorder.drivers.opcua.identity import Identity

__all__ = ["Identity", "Login", "OpcUaDriver", "browse", "discover"]
