// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/file_review.h"

#include "core/base/words.h"
#include "exchange/edit_text.h"

namespace culvert {
namespace {

Finding finding(Severity severity, ElementRef element, std::string field, std::string title, std::string detail,
                std::string remedy) {
    Finding f;
    f.severity = severity;
    f.element = element;
    f.check.rule = Rule::Data;
    f.check.verdict = severity == Severity::Error ? Verdict::Beyond : Verdict::Near;
    f.field = std::move(field);
    f.title = std::move(title);
    f.detail = std::move(detail);
    f.remedy = std::move(remedy);
    return f;
}

}  // namespace

std::vector<Finding> variant_findings(const Project& project) {
    std::vector<Finding> list;
    for (const Variant& v : project.variants) {
        if (v.changes.empty()) continue;
        const std::string what = "Variant " + element_name(project, Kind::Variant, v.id) + ": ";
        std::vector<std::string> problems;
        if (!read_edit(v.changes, &problems)) problems.emplace_back("its changes are no text that can be read");
        for (const std::string& p : problems)
            list.push_back(finding(Severity::Error, {Kind::Variant, v.id}, "changes", "change that does not fit",
                                   sentences(what + p), "It is kept and not applied. Correct it in the file."));
    }
    return list;
}

std::vector<Finding> asset_findings(const Project& project, const AssetStore& assets) {
    std::vector<Finding> list;
    const auto look = [&]<class R>(const Table<R>& rows) {
        for (const R& row : rows) {
            if constexpr (std::is_same_v<R, Variant>)
                if (row.asset.empty()) continue;  // a variant of the design has none
            if (!row.asset.empty() && assets.find(row.asset)) continue;
            const std::string what(kind_name(kind_of<R>()));
            list.push_back(finding(Severity::Error, {kind_of<R>(), row.id}, "asset", "content missing",
                                   "The content of " + what + " " + element_name(project, kind_of<R>(), row.id) +
                                       " is not there: " + (row.asset.empty() ? "none is named." : row.asset + "."),
                                   "Put back the folder beside the project that ends in .assets, or import it again."));
        }
    };
    look(project.surfaces);
    look(project.backgrounds);
    look(project.variants);
    return list;
}

std::vector<Finding> read_findings(const ReadOutcome& read) {
    std::vector<Finding> list;
    for (const ReadProblem& p : read.problems)
        list.push_back(finding(
            Severity::Warning, {Kind::Settings, settings_id}, "", "file",
            sentences((p.line > 0 ? "line " + std::to_string(p.line) + ": " : std::string()) + p.message), p.remedy));
    return list;
}

}  // namespace culvert
