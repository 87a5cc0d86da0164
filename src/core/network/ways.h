// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <span>
#include <string>
#include <variant>
#include <vector>

#include "core/network/network.h"

/// All ways by which water leaves the nodes of a network, whatever they are: pipes, street paths, ways out of storage.
///
/// A closed set: who adds a kind is told by the compiler what must know of it. Each kind keeps its numbers where its
/// kernel reads them (Network::links, Network::inlets, ThroughTime::ponds); here they are seen as one graph, for what
/// asks where water goes and what drains to a place.
///
/// A pipe that leaves a pond is a pipe here; so is one that closes a ring, in the direction it is listed. An outlet
/// that runs through another one of its pond is no way of its own.
namespace culvert {

struct PipeWay {
    int link = no_link;
    friend bool operator==(const PipeWay&, const PipeWay&) = default;
};
struct StreetWay {
    int inlet = no_inlet;
    friend bool operator==(const StreetWay&, const StreetWay&) = default;
};
struct OutletWay {
    int pond = -1, way = -1;  ///< in ThroughTime::ponds, and its ways
    friend bool operator==(const OutletWay&, const OutletWay&) = default;
};
using WayKind = std::variant<PipeWay, StreetWay, OutletWay>;

/// A way from a node to another one, or off the site.
struct Way {
    int from = no_node;
    int to = no_node;  ///< no_node: it leaves the site
    WayKind by;
};

class Ways {
  public:
    explicit Ways(const Network& network);
    // Views of it: of one that goes away at once they would be of nothing.
    [[nodiscard]] std::span<const Way> all() const& { return ways_; }  ///< by the node they leave
    [[nodiscard]] std::span<const Way> from(int node) const&;
    std::span<const Way> all() const&& = delete;
    std::span<const Way> from(int node) const&& = delete;
    /// Their places in `all`.
    [[nodiscard]] std::span<const int> into(int node) const;

    /// Nodes whose water reaches a node, and that node; rising.
    [[nodiscard]] std::vector<int> above(int node) const;
    /// Nodes that its water reaches, and that node; rising.
    [[nodiscard]] std::vector<int> below(int node) const;

  private:
    std::vector<Way> ways_;
    std::vector<int> begin_;  ///< per node, and one more
    std::vector<int> into_, into_begin_;
};

/// Whether its water comes to an inlet, or passes one by: a street path, or a spill along one.
bool runs_over_street(const Network& network, const Way& way);

/// Those of one node, without the graph: for what is shown of a single place.
std::vector<Way> ways_into(const Network& network, int node);
std::vector<Way> ways_out_of(const Network& network, int node);

/// "pipe A4–P1", "street path to B2", "outlet low opening", "outlet high crest, over the street".
std::string way_name(const Project& project, const Network& network, const Way& way);

}  // namespace culvert
