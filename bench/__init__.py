import zugzwang  # noqa: F401 – sets what must be set before packages that compute are read, as where the product runs
