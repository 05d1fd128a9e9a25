from collections import Counter


def fuzz(server, count, seed):
    return Counter()
