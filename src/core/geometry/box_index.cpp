// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/geometry/box_index.h"

#include <boost/geometry/geometries/box.hpp>
#include <boost/geometry/geometries/point_xy.hpp>
#include <boost/geometry/index/rtree.hpp>

namespace culvert {
namespace {

namespace bg = boost::geometry;
using Corner = bg::model::d2::point_xy<double>;
using Extent = bg::model::box<Corner>;
using Entry = std::pair<Extent, std::size_t>;

Extent extent_of(const BoundingBox& b) { return {{b.left, b.low}, {b.right, b.high}}; }

}  // namespace

struct BoxIndex::Tree {
    bg::index::rtree<Entry, bg::index::quadratic<16>> tree;
};

BoxIndex::BoxIndex(std::span<const BoundingBox> boxes) {
    std::vector<Entry> entries;
    entries.reserve(boxes.size());
    for (std::size_t i = 0; i < boxes.size(); ++i) entries.emplace_back(extent_of(boxes[i]), i);
    tree_ = std::make_shared<const Tree>(Tree{decltype(Tree::tree)(entries)});
}

void BoxIndex::meeting(const BoundingBox& box, std::vector<std::size_t>& out) const {
    out.clear();
    if (!tree_) return;
    for (auto it = tree_->tree.qbegin(bg::index::intersects(extent_of(box))); it != tree_->tree.qend(); ++it)
        out.push_back(it->second);
}
std::vector<std::size_t> BoxIndex::meeting(const BoundingBox& box) const {
    std::vector<std::size_t> out;
    meeting(box, out);
    return out;
}

}  // namespace culvert
