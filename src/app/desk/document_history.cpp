// SPDX-License-Identifier: GPL-3.0-or-later
// History, variants, issued states and the journal of a document.
#include <QDir>
#include <QFileInfo>
#include <cmath>

#include "app/desk/document.h"
#include "app/desk/text.h"
#include "core/base/words.h"
#include "core/design/site.h"
#include "core/design/ties.h"
#include "core/review/policy.h"
#include "exchange/edit_text.h"
#include "exchange/file_review.h"

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
                else return std::holds_alternative<Variant>(change.row.get());
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
    ChangeSet what = ChangeSet::of(edit);
    // What a variant holds was changed as a whole (a conflict settled, taken into the base): any row may show it.
    if (variant_ && what.touches(Kind::Variant)) what = ChangeSet::everything();
    if (variant_) {
        edit = into_variant(root_, variant_, edit);
        if (edit.empty()) return;
        what |= ChangeSet::of(edit);
        apply(root_, edit);
        recompose();
    } else {
        project_ = {};  // so that the base's chunks are changed in place
        apply(root_, edit);
        project_ = root_;
    }
    if (saved_position_ > history_.position())
        edits_lost_ = true;  // the saved state lies on a branch that is cut off now
    if (saving_ && *saving_ > history_.position()) saving_lost_ = true;
    if (journal_) journal_->record(edit, root_);
    // A journal's line may still fit on a disk that a whole surface does not: then a crash would lose what was
    // imported.
    if (const std::string why = assets_->trouble(); !why.empty() && journal_trouble_.isEmpty()) {
        journal_trouble_ = QString("What was imported is held in memory only: %1. Save soon.").arg(text(why));
        emit journal_changed();
    }
    history_.push(std::move(edit));
    touched(what);
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
    ChangeSet what = variant_ ? ChangeSet::everything() : ChangeSet();
    while (history_.position() > position && history_.can_undo()) {
        history_.undo(root_);
        what |= ChangeSet::of(history_.edits()[history_.position()]);
        if (journal_) journal_->undo(history_.edits()[history_.position()], root_);
    }
    while (history_.position() < position && history_.can_redo()) {
        history_.redo(root_);
        what |= ChangeSet::of(history_.edits()[history_.position() - 1]);
        if (journal_) journal_->redo(history_.edits()[history_.position() - 1], root_);
    }
    recompose();
    touched(what);
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
    if (journal_) journal_->show_variant(id);
    recompose();
    touched(ChangeSet::everything());
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
    data_findings_.insert(data_findings_.end(), site_findings_.begin(), site_findings_.end());
    for (Finding& f : conflict_findings()) data_findings_.push_back(std::move(f));
    if (!seen_variants_.same(root_.variants)) {
        seen_variants_ = root_.variants;
        variant_findings_ = variant_findings(root_);
    }
    data_findings_.insert(data_findings_.end(), variant_findings_.begin(), variant_findings_.end());
    data_findings_.insert(data_findings_.end(), clash_findings_.begin(), clash_findings_.end());
    data_findings_.insert(data_findings_.end(), tie_findings_.begin(), tie_findings_.end());
    FindingPolicy(project_).apply(data_findings_);
}

/// Crossings wait for a moment of rest: a drag is not followed pipe by pipe.
void Document::check_crossings() {
    const auto same = [this](auto table) { return (crossed_.*table).same(project_.*table); };
    if (same(&Project::structures) && same(&Project::pipes) && same(&Project::buried_lines) &&
        same(&Project::clearances) && same(&Project::structure_types) && same(&Project::settings_rows))
        return;
    crossed_ = project_;
    crosser_.cancel();
    crossing_.start();
}
void Document::seek_clashes() {
    crosser_.run([this, project = project_, generation = generation_](const Turn& turn) {
        std::vector<Clash> found = culvert::clashes(project);
        std::vector<Finding> said = culvert::clash_findings(project, found);
        turn.tell([this, found = std::move(found), said = std::move(said), generation]() mutable {
            if (generation != generation_) return;  // a newer state has a task of its own
            const bool news = !clashes_.empty() || !found.empty();
            clashes_ = std::move(found);
            clash_findings_ = std::move(said);
            if (!news) return;
            gather_findings();
            advice_.later();
            emit results_changed({false, false, true});
        });
    });
}

/// Ties wait for a moment of rest too: what they follow may be dragged.
void Document::check_ties() {
    const auto same = [this](auto table) { return (tied_.*table).same(project_.*table); };
    if (same(&Project::structures) && same(&Project::pipes) && same(&Project::structure_types) &&
        same(&Project::settings_rows) && same(&Project::surfaces))
        return;
    tied_ = project_;
    tier_.cancel();
    tying_.start();
}
void Document::seek_stale_ties() {
    if (!has_ties(project_) && tie_findings_.empty()) return;
    tier_.run([this, project = project_, ground = site_ground().ground, generation = generation_](const Turn& turn) {
        std::vector<Finding> said;
        if (has_ties(project)) said = tie_findings(project, follow_ties(project, ground, turn.stop));
        if (turn.stop.stop_requested()) return;
        turn.tell([this, said = std::move(said), generation]() mutable {
            if (generation != generation_ || (said.empty() && tie_findings_.empty())) return;
            tie_findings_ = std::move(said);
            gather_findings();
            emit results_changed({false, false, true});
        });
    });
}

/// Surfaces and backgrounds that cannot be shown.
void Document::check_site() {
    std::vector<Finding> found;
    const auto fault = [&](Kind kind, std::uint64_t id, const QString& why) {
        if (why.isEmpty()) return;
        Finding f;
        f.element = {kind, id};
        f.check.rule = Rule::Data;
        f.check.verdict = Verdict::Beyond;
        f.field = "asset";
        f.title = "content missing";
        f.detail = sentences(std::string(kind_name(kind)) + " " + element_name(project_, kind, id) +
                             " is not shown: " + plain(why));
        f.remedy = "Put back the folder beside the project that ends in .assets, or import it again.";
        found.push_back(std::move(f));
    };
    tying_.start();  // ground that was read just now may be what levels are tied to
    for (const auto& s : site_.surfaces()) fault(Kind::Surface, s->id, s->fault);
    for (const auto& b : site_.backgrounds()) fault(Kind::Background, b->id, b->fault);
    if (found.empty() && site_findings_.empty()) return;
    site_findings_ = std::move(found);
    gather_findings();
    emit results_changed({false, false, true});
}

/// Overlaps and gaps of catchments, found on a thread of their own when outlines have changed.
void Document::check_outlines() {
    if (outlined_.same(project_.catchments)) return;
    outlined_ = project_.catchments;
    outliner_.run([this, project = project_, generation = generation_](const Turn& turn) {
        const std::stop_token& stop = turn.stop;
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
        turn.tell([this, found = std::move(found), generation]() mutable {
            if (generation != generation_) return;  // of the project before this one
            if (found.empty() && outline_findings_.empty()) return;
            outline_findings_ = std::move(found);
            gather_findings();
            emit results_changed({false, false, true});
        });
    });
}

void Document::issue(const QString& name, const QString& note) {
    Variant v;
    v.id = random_id();
    v.name = plain(name);
    v.role = VariantRole::Issued;
    v.note = plain(note);
    issuer_.run([this, v, project = project_, generation = generation_, assets = assets_](const Turn& turn) {
        Variant row = v;
        row.asset = assets->add(write_project(project));
        turn.tell([this, row, generation] {
            if (generation != generation_) return;  // another project is open by now
            Editing e(project_, "Issue " + row.name);
            e.insert(row);
            commit(e.take());
        });
    });
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

void Document::set_state_folder(const QString& folder, std::shared_ptr<JournalDisk> disk) {
    state_folder_ = folder;
    journal_disk_ = std::move(disk);
    QDir().mkpath(folder + "/assets");
    assets_->set_spool(plain(folder + "/assets"));
    start_journal();
}

JournalBase Document::journal_base() const {
    JournalBase base{root_, {}, stamp_, history_.position() != saved_position_, variant_};
    std::string ignored;
    if (!path_.isEmpty()) base.path = real_path(plain(path_), ignored);
    if (base.path.empty() && !path_.isEmpty()) base.path = plain(QFileInfo(path_).absoluteFilePath());
    return base;
}

void Document::start_journal() {
    if (state_folder_.isEmpty()) return;
    // A project that is unlocked here or locked elsewhere keeps a journal too: it holds this window's changes only.
    if (journal_) journal_->close();
    JournalBase base = journal_base();
    journal_ = std::make_unique<Journal>(journal_name(plain(state_folder_), base.path), journal_disk_);
    journal_->on_trouble([this, of = journal_.get()](bool trouble) {
        QMetaObject::invokeMethod(
            this,
            [this, of, trouble] {
                if (of != journal_.get()) return;
                journal_trouble_ = trouble ? QString(
                                                 "Changes cannot be kept safe: the journal in %1 cannot be written. Is "
                                                 "the disk full, or the folder closed? Save soon. It is tried again.")
                                                 .arg(state_folder_)
                                           : QString();
                emit journal_changed();
            },
            Qt::QueuedConnection);
    });
    journal_->begin(std::move(base));
    if (!journal_trouble_.isEmpty()) {
        journal_trouble_.clear();
        emit journal_changed();
    }
}
void Document::close_journal() {
    if (journal_) journal_->close();
    journal_.reset();
    lock_.release();
}

std::vector<Recovered> Document::recoverable(const QString& path) const {
    std::vector<Recovered> found;
    if (state_folder_.isEmpty()) return found;
    std::string full, ignored;
    if (!path.isEmpty()) {
        full = real_path(plain(path), ignored);
        if (full.empty()) full = plain(QFileInfo(path).absoluteFilePath());
    }
    for (const std::string& name : journals_left(plain(state_folder_), full)) {
        auto r = recover(name);
        if (!r) {
            JournalDisk().remove(name);  // it brings nothing back
            continue;
        }
        if (!full.empty() && r->project_path != full) {  // the file was renamed since
            r->project_path = full;
            r->file_gone = false;
        }
        found.push_back(std::move(*r));
    }
    return found;
}

void Document::restore(const Recovered& r) {
    // The base is what the journal began from; its Edits stand in the history and can be undone.
    const QString path = text(r.project_path);
    set_project(r.base, path, true);
    History fresh;
    for (const Edit& e : r.edits) {
        apply(root_, e);
        fresh.push(e);
    }
    while (fresh.position() > r.done) fresh.undo(root_);
    history_ = std::move(fresh);
    variant_ = root_.variants.find(r.variant) ? r.variant : 0;
    edits_lost_ = true;  // until it is saved
    // What the journal knew of the file, so that saving asks where somebody else changed it since.
    if (r.file_differs) stamp_ = r.stamp;
    recompose();
    if (journal_) {
        // This state goes to the disk before the journal that it came from goes away.
        JournalBase base = journal_base();
        base.unsaved = true;
        journal_->begin(std::move(base));
        if (journal_->keep()) JournalDisk().remove(r.journal);
    }
    touched(ChangeSet::everything());
    emit file_changed();
}

}  // namespace culvert::app
