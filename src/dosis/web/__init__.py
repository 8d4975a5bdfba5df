"""The web: FastAPI, thin routes, problem documents, and the built pages."""
