"""The web door: thin routes over the engine and the store."""
