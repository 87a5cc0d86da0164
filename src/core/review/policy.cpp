// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/review/policy.h"

#include <algorithm>
#include <cmath>

namespace culvert {
namespace {

/// Worse than what was accepted, by more than what a solve or a rounding may move it.
bool worse(const Check& c, double accepted) {
    if (std::isnan(accepted) || std::isnan(c.value)) return false;
    const double by = c.at_most ? c.value - accepted : accepted - c.value;
    return by > std::max(1e-3 * std::abs(accepted), 1e-4);
}

}  // namespace

FindingPolicy::FindingPolicy(const Project& project) {
    for (const FindingRank& r : project.finding_ranks) ranks_[r.finding] = r.rank;
    for (const AcceptedFinding& a : project.accepted_findings) accepted_[{a.finding, a.element, a.event}] = &a;
}

FindingPolicy::Outcome FindingPolicy::of(std::string_view finding, std::string_view accepted, ElementRef element,
                                         EventId event, const Check& check, Severity usual) const {
    Outcome out{check.verdict, usual, 0, 0, true};
    if (const auto rank = ranks_.find(finding); rank != ranks_.end()) {
        if (rank->second == RankedAs::Off) {
            out.said = false;
            out.verdict = std::min(out.verdict, Verdict::Within);
            return out;
        }
        constexpr Severity severities[] = {Severity::Error, Severity::Warning, Severity::Note};
        constexpr Verdict most[] = {Verdict::Beyond, Verdict::Near, Verdict::Within};
        const auto i = static_cast<std::size_t>(rank->second);
        if (check.verdict != Verdict::Near || severities[i] == Severity::Note) out.severity = severities[i];
        out.verdict = std::min(out.verdict, most[i]);
    }
    if (accepted_.empty()) return out;
    const auto at = accepted_.find({std::string(accepted), element.id, event});
    if (at == accepted_.end()) return out;
    if (worse(check, at->second->value)) {
        out.reopened = at->second->id;
        return out;
    }
    out.accepted = at->second->id;
    out.severity = Severity::Note;
    out.verdict = std::min(out.verdict, Verdict::Near);
    return out;
}

bool FindingPolicy::apply(Finding& f) const {
    const Outcome o = of(finding_name(f), accepted_name(f), f.element, f.event, f.check, f.severity);
    f.check.verdict = o.verdict;
    f.severity = o.severity;
    f.accepted = o.accepted;
    f.reopened = o.reopened;
    return o.said;
}
void FindingPolicy::apply(std::vector<Finding>& findings) const {
    if (empty()) return;
    std::erase_if(findings, [this](Finding& f) { return !apply(f); });
}

std::string_view finding_name(const Finding& f) {
    return f.check.rule == Rule::Data ? std::string_view(f.title) : rule_name(f.check.rule);
}

std::string accepted_name(const Finding& f) {
    const bool many = f.check.rule == Rule::Crossing || f.check.rule == Rule::Beside;
    return std::string(finding_name(f)) + (many ? ": " + f.field : "");
}

Edit accept_findings(const Project& project, const std::vector<Finding>& findings, const std::string& reason,
                     const std::string& by, const std::string& date) {
    Editing e(project,
              findings.size() == 1 ? "Accept a finding" : "Accept " + std::to_string(findings.size()) + " findings");
    for (const Finding& f : findings) {
        const std::string name = accepted_name(f);
        const AcceptedFinding* known = nullptr;
        for (const AcceptedFinding& a : e.now().accepted_findings)
            if (a.finding == name && a.element == f.element.id && a.event == f.event) known = &a;
        if (known) {
            const std::uint64_t id = known->id;
            e.set(Kind::AcceptedFinding, id, "value", f.check.value);
            e.set(Kind::AcceptedFinding, id, "reason", reason);
            e.set(Kind::AcceptedFinding, id, "by", by);
            e.set(Kind::AcceptedFinding, id, "date", date);
            continue;
        }
        AcceptedFinding row;
        row.finding = name;
        row.element = f.element.id;
        row.event = f.event;
        row.value = f.check.value;
        row.reason = reason;
        row.by = by;
        row.date = date;
        e.insert(row);
    }
    return e.take();
}

Edit reopen_findings(const Project& project, const std::vector<Finding>& findings) {
    Editing e(project, "Open accepted findings again");
    for (const Finding& f : findings)
        for (const std::uint64_t row : {f.accepted, f.reopened})
            if (row && e.now().accepted_findings.find(row)) e.remove(Kind::AcceptedFinding, row);
    return e.take();
}

Edit rank_finding(const Project& project, std::string_view finding, std::optional<RankedAs> rank) {
    Editing e(project, "Rank of " + std::string(finding));
    const FindingRank* known = nullptr;
    for (const FindingRank& r : project.finding_ranks)
        if (r.finding == finding) known = &r;
    if (known && !rank) e.remove(Kind::FindingRank, known->id);
    else if (known) e.set(Kind::FindingRank, known->id, "rank", *rank);
    else if (rank) {
        FindingRank row;
        row.finding = finding;
        row.rank = *rank;
        e.insert(row);
    }
    return e.take();
}

}  // namespace culvert
