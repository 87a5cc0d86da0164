// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <memory>
#include <span>
#include <vector>

namespace culvert {

/// A box in the plane, its sides along the axes; one with no extent is a point.
struct BoundingBox {
    double left = 0, low = 0, right = 0, high = 0;
};

/// Which of many boxes meet one: found through a tree of boxes (R-tree), in about the time of what is found, not of
/// what there is. Boxes that touch meet. Cheap to move; a copy shares the tree, which never changes.
class BoxIndex {
  public:
    BoxIndex() = default;
    explicit BoxIndex(std::span<const BoundingBox> boxes);
    /// Places in the list the index was made of, in no order of meaning.
    [[nodiscard]] std::vector<std::size_t> meeting(const BoundingBox& box) const;
    /// The same into a list that is used again.
    void meeting(const BoundingBox& box, std::vector<std::size_t>& out) const;

  private:
    struct Tree;
    std::shared_ptr<const Tree> tree_;
};

}  // namespace culvert
