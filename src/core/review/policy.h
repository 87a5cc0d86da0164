// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <map>

#include "core/review/review.h"

/// What a project says of its findings: how grave a kind of finding is, and which ones were accepted with a reason.
///
/// An accepted finding stays in the list, as a note with its reason, and counts as near its limit, not beyond it. It
/// opens again where its value has become worse than the one accepted, by more than a thousandth of it. A kind of
/// finding that is ranked a warning counts as near, a note as within its limit; one that is off is not said at all.
namespace culvert {

class FindingPolicy {
  public:
    /// @param project  must outlive this
    explicit FindingPolicy(const Project& project);
    [[nodiscard]] bool empty() const { return ranks_.empty() && accepted_.empty(); }

    struct Outcome {
        Verdict verdict = Verdict::Unknown;
        Severity severity = Severity::Error;
        std::uint64_t accepted = 0;  ///< row of the acceptance that holds
        std::uint64_t reopened = 0;  ///< row of one that does not hold any more
        bool said = true;            ///< false: its kind is off
    };
    /// @param finding   the rule's words
    /// @param accepted  the words that an acceptance names it by: the same, or with what it is near
    [[nodiscard]] Outcome of(std::string_view finding, std::string_view accepted, ElementRef element, EventId event,
                             const Check& check, Severity usual) const;
    /// Applies it to a finding; false where it is not to be said.
    bool apply(Finding& finding) const;
    /// The same for many.
    void apply(std::vector<Finding>& findings) const;

  private:
    std::map<std::string_view, RankedAs> ranks_;
    std::map<std::tuple<std::string, std::uint64_t, EventId>, const AcceptedFinding*> accepted_;
};

/// The words that name a finding in rows: its rule's, or of a fault of the data its title.
std::string_view finding_name(const Finding& finding);
/// The words that an acceptance names it by: of a crossing with what it crosses.
std::string accepted_name(const Finding& finding);
/// Accepts findings with a reason, as one Edit; those that are accepted already get the new reason and value.
Edit accept_findings(const Project& project, const std::vector<Finding>& findings, const std::string& reason,
                     const std::string& by, const std::string& date);
/// Opens accepted ones again.
Edit reopen_findings(const Project& project, const std::vector<Finding>& findings);
/// Ranks a kind of finding; its usual rank where `rank` is none.
Edit rank_finding(const Project& project, std::string_view finding, std::optional<RankedAs> rank);

}  // namespace culvert
