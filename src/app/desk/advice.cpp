// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/desk/advice.h"

#include <set>

#include "core/design/fault_remedies.h"

namespace culvert::app {
namespace {

constexpr int advise_after_ms = 120;
/// Findings that remedies are tried for without being looked at, and the size of a project (pipes times events) up to
/// which that is no burden.
constexpr std::size_t most_unasked = 40, unasked_up_to = 12'000;

/// A fault of the data as the findings name it.
FindingKey key_of(const Fault& fault) {
    Finding f;
    f.check.rule = Rule::Data;
    f.element = fault.element;
    f.title = fault.title;
    f.field = fault.field;
    return f.key();
}

}  // namespace

Advice::Advice(std::function<Basis()> basis, Task::Failed failed)
    : basis_(std::move(basis)), failed_(std::move(failed)) {
    delay_.setSingleShot(true);
    delay_.setInterval(advise_after_ms);
    connect(&delay_, &QTimer::timeout, this, [this] {
        seek_ladder();
        seek_remedies();
    });
}

void Advice::forget() {
    ladder_.clear();
    remedies_.clear();
    sought_.clear();
    seeking_ = false;
    advisor_.cancel();
    remedier_.cancel();
}

void Advice::turn() {
    ladder_.clear();
    later();
}

const std::vector<Remedy>* Advice::remedies_of(const Finding& finding) const {
    const auto at = remedies_.find(finding.key());
    return at == remedies_.end() ? nullptr : &at->second;
}

void Advice::look_at(const QString& view, std::vector<FindingKey> shown) {
    auto& known = looked_at_[view];
    if (known == shown) return;
    known = std::move(shown);
    later();
}

void Advice::seek_ladder() {
    Basis b = basis_();
    if (b.selected.kind != Kind::Pipe || b.results.empty()) return;
    advisor_.run([this, b = std::move(b)](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        auto ladder = size_ladder(b.project, b.results, PipeId{b.selected.id}, b.event, stop);
        if (stop.stop_requested()) return;
        // Steps point into the rows of this copy; the rows live on in the document's own, which shares them.
        turn.tell([this, ladder = std::move(ladder), b] {
            const Basis now = basis_();
            if (b.revision != now.revision || b.event != now.event || b.selected != now.selected) return;
            ladder_ = ladder;
            for (LadderStep& s : ladder_) s.size = now.project.sizes.find(s.size->id);
            emit changed();
        });
    });
}

/// Those of the selected element first, then what views show, then, in a project that is not large, the worst ones.
/// Remedies that were found stay as long as the project does; only those that lack are sought, so that choosing a pipe
/// or another event stops nothing that is still wanted.
void Advice::seek_remedies() {
    Basis b = basis_();
    const auto& r = b.review;
    if (b.results.empty() || !r) return;
    std::vector<const Finding*> wanted;
    const auto want = [&](const Finding& f) {
        if (f.check.verdict == Verdict::Beyond && f.check.rule != Rule::Data && !remedies_.contains(f.key()))
            wanted.push_back(&f);
    };
    std::set<FindingKey> shown;
    for (const auto& [view, keys] : looked_at_) shown.insert(keys.begin(), keys.end());
    for (const Finding& f : r->findings)
        if (f.element == b.selected) want(f);
    for (const Finding& f : b.clashes)
        if (f.element == b.selected || shown.contains(f.key())) want(f);
    for (const Finding& f : r->findings)
        if (f.element != b.selected && shown.contains(f.key())) want(f);
    if (b.project.pipes.size() * b.project.events.size() <= unasked_up_to)
        for (std::size_t i = 0; i < r->findings.size() && wanted.size() < most_unasked; ++i)
            if (r->findings[i].element != b.selected && !shown.contains(r->findings[i].key())) want(r->findings[i]);
    std::vector<FindingKey> keys;
    std::vector<Finding> findings;
    for (const Finding* f : wanted) {
        keys.push_back(f->key());
        findings.push_back(*f);
    }
    std::vector<Fault> faults;
    for (const Fault& f : b.results.front()->network->faults)
        if (has_remedy(f) && !remedies_.contains(key_of(f))) {
            keys.push_back(key_of(f));
            faults.push_back(f);
        }
    if (seeking_ && keys == sought_) return;
    sought_ = std::move(keys);
    seeking_ = !sought_.empty();
    if (sought_.empty()) {
        remedier_.cancel();
        return;
    }
    remedier_.run([this, project = std::move(b.project), results = std::move(b.results), findings = std::move(findings),
                   faults = std::move(faults), revision = b.revision](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
        const auto found = [&](FindingKey key, std::vector<Remedy> list) {
            turn.tell([this, key = std::move(key), list = std::move(list), revision]() mutable {
                if (revision != basis_().revision) return;
                remedies_[key] = std::move(list);
                std::erase(sought_, key);
                if (sought_.empty()) seeking_ = false;
                emit changed();
            });
        };
        for (const Finding& f : findings) {
            auto list = culvert::remedies(project, results, f, stop);
            if (stop.stop_requested()) return;
            found(f.key(), std::move(list));
        }
        for (const Fault& f : faults) {
            if (stop.stop_requested()) return;
            found(key_of(f), fault_remedies(project, f));
        }
    });
}

void Advice::propose_sizes() {
    Basis b = basis_();
    proposer_.run([this, b = std::move(b)](const Turn& turn) {
        auto proposal = std::make_shared<const SizeProposal>(culvert::propose_sizes(b.project, b.event));
        if (turn.stop.stop_requested()) return;
        turn.tell([this, proposal, revision = b.revision] {
            if (revision == basis_().revision) emit proposed(proposal);
        });
    });
}

void Advice::propose_design() {
    Basis b = basis_();
    proposer_.run([this, b = std::move(b)](const Turn& turn) {
        auto proposal =
            std::make_shared<const DesignProposal>(culvert::propose_design(b.project, b.event, {}, turn.stop));
        if (turn.stop.stop_requested()) return;
        turn.tell([this, proposal, revision = b.revision] {
            if (revision == basis_().revision) emit designed(proposal);
        });
    });
}

}  // namespace culvert::app
