"""The cabinet over time: temperatures, cycles, watts and frost over days, and what runs on a call show.

A plant (:mod:`plant`) is a unit as nodes that hold heat and what runs between them; in each discrete state
(what runs, what melts, which door is open) it is linear and stepped exactly (:mod:`step`), from one event of
its control (:mod:`control`) to the next.
"""
