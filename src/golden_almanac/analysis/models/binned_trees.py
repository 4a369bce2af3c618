"""Trees on binned features: one for rules (Breiman et al. 1984), many small ones boosted (Friedman 2001).

A node splits its rows by the bins of one feature into two sets; bins of a category, and missing ones, are put in order
of their mean first, which finds the best two sets (Fisher 1958). Nodes are arrays, so that prediction walks all rows at
once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import numpy.typing as npt

from .features import Codes, Feature

Floats = npt.NDArray[np.float64]
Places = npt.NDArray[np.intp]


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Tree:
    """`feature` (nodes,) is −1 at a leaf; `left` holds which bins go left (nodes, bins); `children` (nodes, 2); `value`
    what a node's rows predict; `rows` how many of them were learned from."""

    feature: Places
    left: npt.NDArray[np.bool_]
    children: Places
    value: Floats
    rows: Floats
    depth: int

    def leaves(self, codes: Codes) -> Places:
        """The leaf of each row (n, features)."""
        node = np.zeros(codes.shape[0], dtype=np.intp)
        every = np.arange(codes.shape[0])
        for _ in range(self.depth):
            split = self.feature[node]
            goes = self.left[node, codes[every, np.maximum(split, 0)]]
            node = np.where(split < 0, node, np.where(goes, self.children[node, 0], self.children[node, 1]))
        return node

    def predict(self, codes: Codes) -> Floats:
        return self.value[self.leaves(codes)]

    def add_parts(self, codes: Codes, into: Floats, scale: float = 1.0) -> None:
        """Add to (n, features) what each split on a row's path changes; the root's value is left out."""
        node = np.zeros(codes.shape[0], dtype=np.intp)
        every = np.arange(codes.shape[0])
        for _ in range(self.depth):
            split = self.feature[node]
            goes = self.left[node, codes[every, np.maximum(split, 0)]]
            following = np.where(split < 0, node, np.where(goes, self.children[node, 0], self.children[node, 1]))
            into[every, np.maximum(split, 0)] += scale * (self.value[following] - self.value[node])
            node = following

    def to_dict(self) -> dict[str, Any]:
        return {
            "feature": self.feature.tolist(),
            "children": self.children.tolist(),
            "value": self.value.tolist(),
            "rows": self.rows.tolist(),
            "depth": self.depth,
            "bins": self.left.shape[1],
            "left": [np.flatnonzero(row).tolist() for row in self.left],
        }

    @classmethod
    def from_dict(cls, kept: dict[str, Any]) -> Tree:
        left = np.zeros((len(kept["left"]), kept["bins"]), dtype=bool)
        for row, bins in zip(left, kept["left"], strict=True):
            row[bins] = True
        return cls(
            feature=np.array(kept["feature"], dtype=np.intp),
            left=left,
            value=np.array(kept["value"]),
            children=np.array(kept["children"], dtype=np.intp).reshape(-1, 2),
            rows=np.array(kept["rows"]),
            depth=kept["depth"],
        )


class Grower:
    """Grows trees over the same codes: the offsets of the features' bins are laid out once."""

    def __init__(self, features: Sequence[Feature], codes: Codes) -> None:
        self.codes = codes
        self.most = max(feature.bins for feature in features)
        # All features have as many places as the widest: one pass of sums serves all of them at once.
        self.flat = codes.astype(np.int32) + self.most * np.arange(len(features), dtype=np.int32)
        self.category = np.array([not feature.number for feature in features])

    def grow(
        self,
        gradient: Floats,
        weight: Floats,
        rows: Places,
        *,
        depth: int,
        least: float,
        shrink: float,
        gain: float = 0.0,
    ) -> Tree:
        """A tree whose leaves predict Σ gradient / (Σ weight + shrink). `least` rows stay in a leaf; a split gains
        more than `gain`."""
        feature, left, children, value, counts = [-1], [np.zeros(self.most, dtype=bool)], [[0, 0]], [0.0], [0.0]
        whole = self._histogram(gradient, weight, rows)
        g0, h0 = float(gradient[rows].sum()), float(weight[rows].sum())
        value[0], counts[0] = g0 / (h0 + shrink), float(rows.size)
        level: list[tuple[int, Places, Floats]] = [(0, rows, whole)]
        deepest = 0
        for at in range(depth):
            following: list[tuple[int, Places, Floats]] = []
            level = [part for part in level if part[1].size >= 2 * least]
            if not level:
                break
            sizes = np.array([own.size for _, own, _ in level])
            splits = self._splits(np.stack([histogram for *_, histogram in level]), sizes, least, shrink, gain)
            for (node, own, histogram), found in zip(level, splits, strict=True):
                if found is None:
                    continue
                which, mask = found
                goes = mask[self.codes[own, which]]
                deepest = at + 1
                feature[node], left[node] = which, mask
                halves = (own[goes], own[~goes])
                last = at + 1 == depth
                made = [whole, whole]
                if not last:
                    # Only the smaller side is counted; the other is what is left.
                    small = int(halves[1].size < halves[0].size)
                    made[small] = self._histogram(gradient, weight, halves[small])
                    made[1 - small] = histogram - made[small]
                for side, part in enumerate(halves):
                    children[node][side] = len(feature)
                    if not last:
                        following.append((len(feature), part, made[side]))
                    feature.append(-1)
                    left.append(np.zeros(self.most, dtype=bool))
                    children.append([0, 0])
                    value.append(float(gradient[part].sum()) / (float(weight[part].sum()) + shrink))
                    counts.append(float(part.size))
            level = following
        return Tree(
            feature=np.array(feature, dtype=np.intp),
            left=np.array(left),
            value=np.array(value),
            children=np.array(children, dtype=np.intp),
            rows=np.array(counts),
            depth=deepest,
        )

    def _histogram(self, gradient: Floats, weight: Floats, rows: Places) -> Floats:
        """Rows, gradient and weight in each bin of each feature, shape (3, features, bins)."""
        count = self.flat.shape[1]
        total = count * self.most
        flat = self.flat[rows].ravel()
        made = np.stack(
            [
                np.bincount(flat, minlength=total).astype(np.float64),
                np.bincount(flat, weights=np.repeat(gradient[rows], count), minlength=total),
                np.bincount(flat, weights=np.repeat(weight[rows], count), minlength=total),
            ]
        )
        return made.reshape(3, count, self.most)

    def _splits(
        self, histograms: Floats, rows: Places, least: float, shrink: float, gain: float
    ) -> list[tuple[int, npt.NDArray[np.bool_]] | None]:
        """The best split of each node of a level, a feature and the bins that go left; None where none gains enough.
        `histograms` have shape (nodes, 3, features, bins), `rows` (nodes,)."""
        nodes, _, features, _ = histograms.shape
        needed = np.full((nodes, features), max(gain, 1e-12))
        order: npt.NDArray[np.intp] | None = None
        if self.category.any():
            # Labels in the order of their means; bins without rows come last and change nothing.
            n, g, h = (histograms[:, place, self.category] for place in range(3))
            key = np.where(n > 0.5, g / (h + 10.0), np.inf)
            order = np.tile(np.arange(self.most), (nodes, features, 1))
            order[:, self.category] = np.argsort(key, axis=2, kind="stable")
            # Such an order gains by chance what each label has for free.
            needed[:, self.category] *= np.maximum(1.0, ((n > 0.5).sum(axis=2) - 1) / 2)
        ordered = histograms if order is None else np.take_along_axis(histograms, order[:, None], axis=3)
        sums = np.cumsum(ordered, axis=3)[..., :-1]
        cn, cg, ch = sums[:, 0], sums[:, 1], sums[:, 2]
        whole_g, whole_h = (ordered[:, place, 0].sum(axis=1)[:, None, None] for place in (1, 2))
        with np.errstate(divide="ignore", invalid="ignore"):
            gains = (
                cg**2 / (ch + shrink) + (whole_g - cg) ** 2 / (whole_h - ch + shrink) - whole_g**2 / (whole_h + shrink)
            )
        few = max(least, 0.5)
        gains[(cn < few) | (rows[:, None, None] - cn < few) | ~np.isfinite(gains)] = -np.inf
        places = gains.argmax(axis=2)
        best = np.take_along_axis(gains, places[:, :, None], axis=2)[:, :, 0]
        best = np.where(best > needed, best, -np.inf)
        found: list[tuple[int, npt.NDArray[np.bool_]] | None] = []
        for node, which in enumerate(best.argmax(axis=1)):
            if best[node, which] == -np.inf:
                found.append(None)
                continue
            mask = np.zeros(self.most, dtype=bool)
            last = int(places[node, which]) + 1
            mask[slice(last) if order is None else order[node, which, :last]] = True
            found.append((int(which), mask))
        return found


def coded(features: Sequence[Feature], factors: Sequence[Any]) -> Codes:
    """Bin numbers of all features, shape (n, features)."""
    return np.column_stack([feature.codes(factor) for feature, factor in zip(features, factors, strict=True)])
