"""FastAPI: thin routers over `store` and `core`, one per resource, and the server that carries them and the front end."""
