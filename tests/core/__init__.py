from hypothesis import settings

# How fast a machine is says nothing of what is right.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
