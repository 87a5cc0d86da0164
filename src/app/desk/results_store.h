// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <map>

#include "core/analysis/solver.h"
#include "core/model/cells.h"
#include "core/review/review.h"

namespace culvert::app {

struct Solved {
    std::shared_ptr<const EventResult> result;
    std::shared_ptr<const Review> review;
};

/// The last results of each event with their reviews, and the network they are of. Results of an older revision stay
/// until newer ones come.
class ResultsStore {
  public:
    [[nodiscard]] std::shared_ptr<const EventResult> result(EventId event) const {
        const auto at = solved_.find(event);
        return at == solved_.end() ? nullptr : at->second.result;
    }
    [[nodiscard]] std::shared_ptr<const Review> review(EventId event) const {
        const auto at = solved_.find(event);
        return at == solved_.end() ? nullptr : at->second.review;
    }
    /// Results in the order of the events, only while all are of that revision.
    [[nodiscard]] Results all(const Project& project, std::uint64_t revision) const {
        Results list;
        for (const RainEvent* e : events_in_order(project)) {
            const auto r = result({e->id});
            if (!r || r->revision != revision) return {};
            list.push_back(r);
        }
        return list;
    }
    void take(Solved solved) {
        const EventId event = solved.result->event;
        replaced_.push_back(std::exchange(solved_[event], std::move(solved)));
    }
    /// What was replaced, to be let go on the solver's thread: freeing thousands of findings takes longer than a
    /// picture.
    [[nodiscard]] std::vector<Solved> replaced() { return std::exchange(replaced_, {}); }
    /// Events that the project has no more.
    void drop_missing(const Project& project) {
        std::erase_if(solved_, [&](const auto& entry) { return !project.events.find(entry.first.value); });
    }
    void clear() {
        solved_.clear();
        network.reset();
    }
    std::shared_ptr<const Network> network;

  private:
    std::map<EventId, Solved> solved_;
    std::vector<Solved> replaced_;
};

/// The elements that are selected, the first one first.
class Selection {
  public:
    [[nodiscard]] const std::vector<ElementRef>& all() const { return elements_; }
    [[nodiscard]] ElementRef first() const { return elements_.empty() ? ElementRef{} : elements_.front(); }
    [[nodiscard]] bool contains(ElementRef element) const {
        return std::find(elements_.begin(), elements_.end(), element) != elements_.end();
    }
    /// False where it is what it was.
    bool set(std::vector<ElementRef> elements) {
        if (elements == elements_) return false;
        elements_ = std::move(elements);
        return true;
    }
    /// Elements that the project has no more; whether there were any.
    bool drop_missing(const Project& project) {
        return std::erase_if(elements_, [&](ElementRef e) { return !has_row(project, e.kind, e.id); }) > 0;
    }
    void clear() { elements_.clear(); }

  private:
    std::vector<ElementRef> elements_;
};

}  // namespace culvert::app
