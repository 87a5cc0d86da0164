// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <functional>
#include <memory>

#include "core/model/project.h"

/// Every change of a project is an Edit: field patches, inserts and deletes, with a name. It knows what was there
/// before, so it can be undone; undo of do is identity.
namespace culvert {

struct Patch {
    Kind kind;
    std::uint64_t id;
    std::size_t field;
    Value before, after;
    Origin origin_before, origin_after;
};
/// A row on the heap, shared by copies until one is changed: an Edit of field patches does not carry room for rows.
class BoxedRow {
  public:
    template <class R>
    requires std::is_base_of_v<Row, R> BoxedRow(R row)
        : row_(std::make_shared<AnyRow>(std::move(row))) {}  // a row is what an Insert is made of
    BoxedRow(AnyRow row) : row_(std::make_shared<AnyRow>(std::move(row))) {}
    [[nodiscard]] const AnyRow& get() const { return *row_; }
    operator const AnyRow&() const { return *row_; }
    AnyRow& change() {
        if (row_.use_count() != 1) row_ = std::make_shared<AnyRow>(*row_);
        return *row_;
    }

  private:
    std::shared_ptr<AnyRow> row_;
};
struct Insert {
    BoxedRow row;
};
struct Delete {
    BoxedRow row;
};
using Change = std::variant<Patch, Insert, Delete>;

struct Edit {
    std::string name;
    std::vector<Change> changes;
    std::string
        unread;  ///< changes of its text that do not fit here, as JSON: kept, not applied (exchange/edit_text.h)
    [[nodiscard]] bool empty() const { return changes.empty(); }
    // Out of line: rows of every kind are in it, and every file that passes an Edit on would compile them.
    Edit();
    ~Edit();
    Edit(const Edit&);
    Edit(Edit&&) noexcept;
    Edit& operator=(const Edit&);
    Edit& operator=(Edit&&) noexcept;
};

void apply(Project& project, const Edit& edit);
void revert(Project& project, const Edit& edit);

/// Builds an Edit on a private copy of the project; the copy is at hand as `now()` with all changes so far.
class Editing {
  public:
    Editing(const Project& base, std::string name) : project_(base) { edit_.name = std::move(name); }
    [[nodiscard]] const Project& now() const { return project_; }

    /// Sets a field by key. Setting the value it has is no change. False: no such row or field, or a wrong type.
    bool set(Kind kind, std::uint64_t id, std::string_view key, Value value, Origin origin = Origin::Typed);
    /// A choice by its name.
    template <class E>
    requires std::is_enum_v<E>
    bool set(Kind kind, std::uint64_t id, std::string_view key, E choice, Origin origin = Origin::Typed) {
        return set(kind, id, key, choice_value(choice), origin);
    }
    template <class R>
    void insert(R row) {
        if (row.id == 0) row.id = random_id();
        if (project_.table<R>().insert(row)) edit_.changes.push_back(Insert{std::move(row)});
    }
    /// Removes a row and, so that references stay whole, what hangs on it: pipes and street paths of a structure, land
    /// covers of a catchment, exceptions of an element. A catchment of a removed structure stays, draining nowhere.
    void remove(Kind kind, std::uint64_t id);

    Edit take() { return std::move(edit_); }

  private:
    Project project_;
    Edit edit_;
};

/// Undo and redo of any length.
class History {
  public:
    void push(Edit edit) {
        edits_.resize(done_);
        edits_.push_back(std::move(edit));
        ++done_;
    }
    [[nodiscard]] bool can_undo() const { return done_ > 0; }
    [[nodiscard]] bool can_redo() const { return done_ < edits_.size(); }
    [[nodiscard]] std::string undo_name() const { return can_undo() ? edits_[done_ - 1].name : ""; }
    [[nodiscard]] std::string redo_name() const { return can_redo() ? edits_[done_].name : ""; }
    void undo(Project& p) {
        if (can_undo()) revert(p, edits_[--done_]);
    }
    void redo(Project& p) {
        if (can_redo()) apply(p, edits_[done_++]);
    }
    [[nodiscard]] std::size_t position() const { return done_; }
    [[nodiscard]] const std::vector<Edit>& edits() const { return edits_; }
    void clear() {
        edits_.clear();
        done_ = 0;
    }

  private:
    std::vector<Edit> edits_;
    std::size_t done_ = 0;
};

}  // namespace culvert
