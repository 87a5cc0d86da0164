// SPDX-License-Identifier: GPL-3.0-or-later
// History, variants, issued states and the journal of a document.
#include <QDir>
#include <QFileInfo>
#include <cmath>

#include "app/document.h"
#include "app/theme.h"
#include "core/design/site.h"
#include "exchange/edit_text.h"

namespace culvert::app {
namespace {

/// An Edit of the shown project as an Edit of the base: all but changes of variants go into the active variant's
/// overlay.
Edit into_variant(const Project& root, std::uint64_t variant, const Edit& edit) {
    const Variant* row = root.variants.find(variant);
    Edit mine, own;
    mine.name = own.name = edit.name;
    for (const Change& c : edit.changes) {
        const bool of_variant = std::visit(
            [](const auto& change) {
                if constexpr (requires { change.kind; }) return change.kind == Kind::Variant;
                else return std::holds_alternative<Variant>(change.row);
            },
            c);
        (of_variant ? own : mine).changes.push_back(c);
    }
    if (!row || mine.empty()) return own;
    const auto overlay = read_edit(row->changes);
    const std::string after = edit_text(composed(overlay ? *overlay : Edit{}, mine));
    if (after == row->changes) return own;
    const std::size_t field = *field_index(Kind::Variant, "changes");
    own.changes.push_back(Patch{Kind::Variant, variant, field, row->changes, after, row->origin[field], Origin::Typed});
    return own;
}

}  // namespace

void Document::commit(Edit edit) {
    if (edit.empty()) return;
    cancel_pending();
    if (variant_) {
        edit = into_variant(root_, variant_, edit);
        if (edit.empty()) return;
        apply(root_, edit);
        recompose();
    } else {
        project_ = {};  // so that the base's chunks are changed in place
        apply(root_, edit);
        project_ = root_;
    }
    if (saved_position_ > history_.position())
        edits_lost_ = true;  // the saved state lies on a branch that is cut off now
    if (journal_) journal_->record(edit);
    history_.push(std::move(edit));
    touched();
}

void Document::undo() {
    cancel_pending();
    if (history_.can_undo()) jump_to(history_.position() - 1);
}
void Document::redo() {
    cancel_pending();
    if (history_.can_redo()) jump_to(history_.position() + 1);
}
void Document::jump_to(std::size_t position) {
    cancel_pending();
    if (position == history_.position()) return;
    while (history_.position() > position && history_.can_undo()) {
        history_.undo(root_);
        if (journal_) journal_->undo();
    }
    while (history_.position() < position && history_.can_redo()) {
        history_.redo(root_);
        if (journal_) journal_->redo();
    }
    recompose();
    touched();
}

void Document::recompose() {
    conflicts_.clear();
    const Variant* row = variant_ ? root_.variants.find(variant_) : nullptr;
    if (!row) variant_ = 0;
    const auto overlay = row ? read_edit(row->changes) : std::nullopt;
    project_ = overlay ? with_overlay(root_, *overlay, &conflicts_) : root_;
}

void Document::activate_variant(std::uint64_t id) {
    if (id == variant_) return;
    cancel_pending();
    variant_ = id;
    recompose();
    touched();
    emit file_changed();
}

Project Document::as_variant(std::uint64_t id) const {
    const Variant* row = id ? root_.variants.find(id) : nullptr;
    const auto overlay = row ? read_edit(row->changes) : std::nullopt;
    return overlay ? with_overlay(root_, *overlay) : root_;
}

void Document::settle_conflict(std::size_t index, bool mine) {
    const Variant* row = root_.variants.find(variant_);
    if (!row || index >= conflicts_.size()) return;
    const auto overlay = read_edit(row->changes);
    if (!overlay) return;
    Editing e(root_, mine ? "Keep the variant's value" : "Take the base's value");
    e.set(Kind::Variant, variant_, "changes", edit_text(settled(*overlay, root_, conflicts_[index], mine)));
    commit(e.take());
}

std::vector<Finding> Document::conflict_findings() const {
    std::vector<Finding> list;
    for (const Conflict& c : conflicts_) {
        Finding f;
        f.severity = Severity::Warning;
        f.element = {c.kind, c.id};
        f.check.rule = Rule::Data;
        f.title = "variant and base differ";
        if (c.whole_row) f.detail = "one of them deleted it and the other changed it";
        else {
            f.field = infos_of(c.kind)[c.field]->key;
            f.detail = std::string(infos_of(c.kind)[c.field]->label) + ": the variant began from " +
                       value_text(project_, c.kind, c.field, c.seen) + " and set " +
                       value_text(project_, c.kind, c.field, c.mine) + ", the base now has " +
                       value_text(project_, c.kind, c.field, c.base);
        }
        f.remedy = "choose one in History";
        list.push_back(std::move(f));
    }
    return list;
}

void Document::gather_findings() {
    data_findings_ = network_findings_;
    data_findings_.insert(data_findings_.end(), outline_findings_.begin(), outline_findings_.end());
    for (Finding& f : conflict_findings()) data_findings_.push_back(std::move(f));
}

/// Overlaps and gaps of catchments, found on a thread of their own when outlines have changed.
void Document::check_outlines() {
    if (outlined_.same(project_.catchments)) return;
    outlined_ = project_.catchments;
    outliner_.run([this, project = project_](const std::stop_token& stop) {
        std::vector<Finding> found;
        const UnitSet u = units_of(project);
        for (const OutlineFault& fault : outline_faults(project, 1, stop)) {
            if (fault.form == OutlineFault::Form::CrossesItself) continue;  // said with the data
            Finding f;
            f.severity = Severity::Warning;
            f.element = {Kind::Catchment, fault.first};
            f.check.rule = Rule::Data;
            f.check.verdict = Verdict::Near;
            f.field = "outline";
            const std::string a = element_name(project, Kind::Catchment, fault.first),
                              size = u.text(fault.area, Quantity::Area);
            if (fault.form == OutlineFault::Form::Overlap) {
                f.title = "catchments overlap";
                f.detail = a + " and " + element_name(project, Kind::Catchment, fault.second) + " share " + size +
                           ": its water is counted twice.";
                f.remedy = "Drag their corners apart.";
            } else {
                f.title = "gap between catchments";
                f.detail = "A gap of " + size + " is enclosed beside " + a + ": its water is counted nowhere.";
                f.remedy = "Drag corners over it, or draw a catchment.";
            }
            found.push_back(std::move(f));
        }
        if (stop.stop_requested()) return;
        QMetaObject::invokeMethod(
            this,
            [this, found = std::move(found)]() mutable {
                if (found.empty() && outline_findings_.empty()) return;
                outline_findings_ = std::move(found);
                gather_findings();
                emit results_changed();
            },
            Qt::QueuedConnection);
    });
}

void Document::issue(const QString& name, const QString& note) {
    Variant v;
    v.id = random_id();
    v.name = plain(name);
    v.role = static_cast<int>(VariantRole::Issued);
    v.note = plain(note);
    v.asset = assets_->add(write_project(project_));
    Editing e(project_, "Issue " + v.name);
    e.insert(std::move(v));
    commit(e.take());
}

std::optional<Project> Document::issued(const Variant& row) const {
    const auto bytes = assets_->find(row.asset);
    if (!bytes) return {};
    ReadOutcome read = read_project(*bytes);
    if (!read.ok) return {};
    return std::move(read.project);
}

double Document::ground_level(Point p) const {
    const double level = site_.level(p);
    return std::round(level * 1000) / 1000;
}

SiteGround Document::site_ground() const { return {site_.ground(), site_.top() ? site_.top()->drainage : nullptr}; }

void Document::set_state_folder(const QString& folder) {
    state_folder_ = folder;
    QDir().mkpath(folder + "/assets");
    assets_->set_spool(plain(folder + "/assets"));
    start_journal();
}

void Document::start_journal() {
    if (state_folder_.isEmpty()) return;
    const std::string full = path_.isEmpty() ? std::string() : plain(QFileInfo(path_).absoluteFilePath());
    // A project that is unlocked here or locked elsewhere keeps a journal too: it holds this window's changes only.
    if (journal_) journal_->close();
    journal_ = std::make_unique<Journal>(journal_name(plain(state_folder_), full));
    journal_->begin(root_, full);
}
void Document::close_journal() {
    if (journal_) journal_->close();
    journal_.reset();
}

std::vector<Recovered> Document::recoverable(const QString& path) const {
    std::vector<Recovered> found;
    if (state_folder_.isEmpty()) return found;
    const std::string full = path.isEmpty() ? std::string() : plain(QFileInfo(path).absoluteFilePath());
    for (const std::string& name : orphans(plain(state_folder_), full)) {
        if (auto r = recover(name)) found.push_back(std::move(*r));
        else JournalDisk().remove(name);  // it brings nothing back
    }
    return found;
}

void Document::restore(const Recovered& r) {
    // The base is what the journal began from; its Edits stand in the history and can be undone.
    const QString path = text(r.project_path);
    set_project(r.base, path, true);
    History fresh;
    for (std::size_t i = 0; i < r.edits.size(); ++i) {
        if (journal_) journal_->record(r.edits[i]);
        apply(root_, r.edits[i]);
        fresh.push(r.edits[i]);
    }
    history_ = std::move(fresh);
    recompose();
    edits_lost_ = r.file_differs;
    jump_to(r.done);
    if (r.done == r.edits.size()) touched();
    if (!journal_ || journal_->settle()) JournalDisk().remove(r.journal);
    emit file_changed();
}

}  // namespace culvert::app
