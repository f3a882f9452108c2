"""What each remedy would leave at a corner: one module a remedy, and here the whole set.

``state`` draws what is known, the remedies push the draws through, ``outcome`` tells them; ``compass.rules`` says
which are forbidden, ``compass.policies`` in which order they stand, ``compass.pairs`` decides an axle.
"""
