"""In which order a circuit's network is eliminated: from the leaves of the tree of parts to its sources."""

from functools import lru_cache

from zesty_copper.core.network.elimination import Elimination, Place, plan_elimination
from zesty_copper.core.network.netlist import EARTH, Netlist

__all__ = ["elimination_of"]

Ends = tuple[tuple[int, int], ...]


def elimination_of(netlist: Netlist) -> Elimination:
    """Return the elimination of a network; circuits that are wired alike share one."""
    number = {part.id: i for i, part in enumerate(netlist.circuit.parts)}
    depth = tuple(number[point.part_id or ""] for point in netlist.nodes)
    ends = tuple((branch.leaves, branch.enters) for branch in netlist.listed)
    coupled = tuple((b, other_branch) for b, other_branch, _ in netlist.coupled)
    return _planned(depth, ends, tuple((stray.a, stray.b) for stray in netlist.strays), coupled)


@lru_cache(maxsize=64)
def _planned(depth: tuple[int, ...], ends: Ends, strays: Ends, coupled: Ends) -> Elimination:
    """Plan by the number of each node's part, the ends of the branches and strays, and the pairs that are coupled."""
    n = len(depth)
    size = n + len(ends)
    entries: set[Place] = set()
    for a, b in (*strays, *ends):
        # A probe is set on either side of a branch, so what it sees there is held too.
        entries |= {(a, a), (b, b), (a, b), (b, a)}
    for b, (leaves, enters) in enumerate(ends, n):
        entries |= {(b, b), (b, leaves), (leaves, b), (b, enters), (enters, b)}
    entries |= {(n + b, n + other_branch) for b, other_branch in coupled}
    entries = {place for place in entries if EARTH not in place}
    return plan_elimination(size, sorted(entries), _pivots(depth, ends))


def _pivots(depth: tuple[int, ...], ends: Ends) -> list[Place]:
    """Order the pivots: of each part its loops first, then its nodes by the branches that feed them."""
    n = len(depth)
    feed, height = _feeds(n, ends)
    loops: dict[int, list[int]] = {}
    for b, (leaves, enters) in enumerate(ends):
        if b not in feed.values():
            # It goes before either of its ends.
            first = max((end for end in (leaves, enters) if end != EARTH), key=lambda node: (depth[node], height[node]))
            loops.setdefault(first, []).append(n + b)
    order: list[Place] = []
    for node in sorted(range(n), key=lambda node: (-depth[node], -height[node])):
        order += [(loop, loop) for loop in loops.get(node, ())]
        if node in feed:
            order += [(n + feed[node], node), (node, n + feed[node])]
        else:
            order.append((node, node))
    return order


def _feeds(n: int, ends: Ends) -> tuple[dict[int, int], list[int]]:
    """Return the branch by which each node hangs on the earth, and how many lie between; a floating node has none.

    A spanning tree of the branches in the order in which they are laid: a part's own before what closes loops.
    """
    neighbours: list[list[tuple[int, int]]] = [[] for _ in range(n + 1)]
    group = list(range(n + 1))

    def root(node: int) -> int:
        while group[node] != node:
            node = group[node]
        return node

    for b, (leaves, enters) in enumerate(ends):
        first_root, second_root = root(leaves % (n + 1)), root(enters % (n + 1))
        if first_root != second_root:
            group[first_root] = second_root
            neighbours[leaves % (n + 1)].append((b, enters % (n + 1)))
            neighbours[enters % (n + 1)].append((b, leaves % (n + 1)))
    feed: dict[int, int] = {}
    height = [-1] * (n + 1)
    for start in (n, *range(n)):
        if height[start] >= 0:
            continue
        height[start] = 0
        waiting = [start]
        while waiting:
            node = waiting.pop()
            for b, second_root in neighbours[node]:
                if height[second_root] < 0:
                    feed[second_root], height[second_root] = b, height[node] + 1
                    waiting.append(second_root)
    return feed, height
