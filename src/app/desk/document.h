// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QTimer>
#include <map>

#include "app/desk/advice.h"
#include "app/desk/results_store.h"
#include "app/desk/site.h"
#include "app/desk/task.h"
#include "core/design/design.h"
#include "core/design/site.h"
#include "core/model/change_set.h"
#include "core/model/edit.h"
#include "core/model/variant.h"
#include "core/review/clashes.h"
#include "exchange/assets.h"
#include "exchange/journal.h"
#include "exchange/project_file.h"

/// A project with its history, file, solver and selection: all that the views show. Views hold no state of it
/// themselves. Its parts stand on their own: results (results_store.h), selection, advice (advice.h), ground (site.h),
/// journal, tasks; this class holds them together and says what changed.
///
/// Every change is an Edit. After each, all events are solved on another thread, the viewed one first; results know the
/// revision they came from, and are stale until those of the present revision arrive.
namespace culvert::app {

/// What of the results is new.
struct ResultsChange {
    bool viewed = false;  ///< those of the viewed event
    bool others = false;  ///< those of other events: all of them are of one revision now
    bool data = false;    ///< faults of the data
};

class Document : public QObject {
    Q_OBJECT
  public:
    /// @param assets  a store that is shared with another document; none: its own
    explicit Document(QObject* parent = nullptr, std::shared_ptr<AssetStore> assets = {});
    ~Document() override;

    [[nodiscard]] const Project& project() const { return project_; }
    /// Without the pending Edit: what each of its successors is built on.
    [[nodiscard]] const Project& committed() const { return pending_.empty() ? project_ : base_; }
    [[nodiscard]] std::uint64_t revision() const { return revision_; }
    [[nodiscard]] UnitSet units() const { return units_of(project_); }
    [[nodiscard]] const History& history() const { return history_; }

    /// Makes an Edit. While a variant is active it changes the variant only.
    void commit(Edit edit);
    void undo();
    void redo();
    /// Undoes or redoes to a place in the history: the number of Edits that stand.
    void jump_to(std::size_t position);
    /// A pending Edit follows the pointer: each call replaces the last one; it is committed once or dropped.
    void set_pending(Edit edit);
    void commit_pending();
    void cancel_pending();
    [[nodiscard]] bool has_pending() const { return !pending_.empty(); }

    // Ground, backgrounds, assets
    [[nodiscard]] Site& site() { return site_; }
    [[nodiscard]] const std::shared_ptr<AssetStore>& assets() const { return assets_; }
    /// Level of the ground that gives rims, in mm steps; NaN off the surface.
    [[nodiscard]] double ground_level(Point p) const;
    /// The ground as core/design takes it: levels, and the way of water over the upper surface.
    [[nodiscard]] SiteGround site_ground() const;

    // Variants: the project shown is the base with the active variant's changes on it.
    [[nodiscard]] const Project& base() const { return root_; }
    [[nodiscard]] std::uint64_t variant() const { return variant_; }
    void activate_variant(std::uint64_t id);  ///< 0: the base
    [[nodiscard]] const std::vector<Conflict>& conflicts() const { return conflicts_; }
    void settle_conflict(std::size_t index, bool mine);
    /// The base or a variant as a project of its own.
    [[nodiscard]] Project as_variant(std::uint64_t id) const;
    /// Records the present state as issued, as one Edit.
    /// It is written off the interface thread; the Edit comes when it is on the disk.
    void issue(const QString& name, const QString& note);
    /// The state that was issued; none where its file is missing.
    [[nodiscard]] std::optional<Project> issued(const Variant& row) const;

    // Journal
    /// Where journals and unsaved assets lie; empty (the default): neither is kept on disk.
    /// @param disk  what journals do to the disk; tests give one that fails or is killed
    void set_state_folder(const QString& folder, std::shared_ptr<JournalDisk> disk = nullptr);
    [[nodiscard]] Journal* journal() const { return journal_.get(); }
    /// Why changes are not safe before they are saved: the journal cannot be written. Empty as long as it can.
    [[nodiscard]] QString journal_trouble() const { return journal_trouble_; }
    /// What programs that ended early left: of this project, or of all projects where the path is empty.
    [[nodiscard]] std::vector<Recovered> recoverable(const QString& path) const;
    void restore(const Recovered& recovered);
    /// A clean end: nothing is to be brought back, and the file is no longer marked as open.
    void close_journal();

    // Results of the present or the last solved revision.
    [[nodiscard]] std::shared_ptr<const EventResult> result() const { return result(event_); }
    [[nodiscard]] std::shared_ptr<const EventResult> result(EventId event) const { return store_.result(event); }
    [[nodiscard]] std::shared_ptr<const Review> review() const { return review(event_); }
    [[nodiscard]] std::shared_ptr<const Review> review(EventId event) const { return store_.review(event); }
    [[nodiscard]] std::shared_ptr<const Network> network() const { return store_.network; }
    [[nodiscard]] const std::vector<Finding>& data_findings() const { return data_findings_; }
    /// Where pipes come near each other and other lines, found on a thread of its own when they have changed.
    [[nodiscard]] const std::vector<Clash>& clashes() const { return clashes_; }
    /// Results in the order of the events, only while all are of one revision.
    [[nodiscard]] Results all_results() const { return store_.all(project_, revision_); }
    /// Whether the viewed event's result is of the present revision.
    [[nodiscard]] bool current() const;
    /// Older than 150 ms behind: to be shown dimmed.
    [[nodiscard]] bool dimmed() const { return dimmed_; }
    [[nodiscard]] double solve_ms() const { return solve_ms_; }
    void cancel_solve();
    /// For tests: every solve first waits this long (and can be cancelled while it does).
    void set_solve_delay(int ms) {
        solve_delay_ = ms;
        solve();
    }

    [[nodiscard]] EventId event() const { return event_; }
    void set_event(EventId event);

    [[nodiscard]] const std::vector<ElementRef>& selection() const { return selection_.all(); }
    [[nodiscard]] ElementRef selected() const { return selection_.first(); }
    [[nodiscard]] bool is_selected(ElementRef element) const { return selection_.contains(element); }
    void select(std::vector<ElementRef> elements);
    /// Up- or downstream from the selected element: pipe to structure to pipe.
    void walk(bool upstream);
    /// Selects all whose water comes to the selected element, or all that its water reaches, by ways of any kind.
    void select_reach(bool above);

    // Advice, computed in the background for the present revision; empty until it is there.
    [[nodiscard]] const std::vector<LadderStep>& ladder() const { return advice_.ladder(); }
    [[nodiscard]] const std::vector<Remedy>* remedies_of(const Finding& finding) const {
        return advice_.remedies_of(finding);
    }
    /// Remedies are sought for what is looked at: the findings a view shows, by its name; the selected element's
    /// always.
    void look_at_findings(const QString& view, std::vector<FindingKey> shown) {
        advice_.look_at(view, std::move(shown));
    }
    [[nodiscard]] bool seeking_remedies() const { return advice_.seeking(); }

    /// Proposes sizes for the viewed event in the background; `proposed` brings them.
    void propose_sizes() { advice_.propose_sizes(); }
    /// The same of sizes, slopes and levels together; `designed` brings them.
    void propose_design() { advice_.propose_design(); }
    void stop_proposing() { advice_.stop_proposing(); }

    // Files
    [[nodiscard]] const QString& path() const { return path_; }
    [[nodiscard]] bool modified() const { return history_.position() != saved_position_ || edits_lost_; }
    void set_project(Project project, const QString& path = {}, bool lock = true);
    /// Reads a file; the document is untouched on failure. Returns what to tell the user, empty if nothing.
    /// Without `lock` the file is not marked as open: for examples, which are never written over.
    QString open(const QString& path, bool lock = true);
    QString save(const QString& path, bool overwrite_changed = false);
    /// The same off the interface thread: `done` says on it what open and save return. What is edited while a file is
    /// written stands as changed since; another project may be opened meanwhile, and the file is written all the same.
    using Done = std::function<void(const QString&)>;
    void open_later(const QString& path, bool lock, Done done);
    void save_later(const QString& path, bool overwrite_changed, Done done);
    void cancel_open() { opener_.cancel(); }
    /// So large that its files are read and written off the interface thread.
    [[nodiscard]] bool is_large() const;
    /// Whether somebody else changed the file since it was read or written; one that is gone is not changed.
    [[nodiscard]] bool changed_on_disk() const;
    /// Counts the projects that this document has held: what was begun for one is not taken by the next.
    [[nodiscard]] std::uint64_t generation() const { return generation_; }
    [[nodiscard]] QString lock_holder() const { return lock_holder_; }

  signals:
    void changed(const culvert::ChangeSet& what);  ///< project, by any Edit
    void results_changed(const culvert::app::ResultsChange& what);
    void event_changed();
    void selection_changed();
    void advice_changed();
    void proposed(const std::shared_ptr<const culvert::SizeProposal>& proposal);
    void designed(const std::shared_ptr<const culvert::DesignProposal>& proposal);
    void age_changed();  ///< dimmed or not
    void file_changed();
    void site_changed();
    void journal_changed();           ///< it cannot be written any more, or can again
    void failed(const QString& why);  ///< work off the interface thread, by an exception

  private:
    void touched(const ChangeSet& what);
    void recompose();
    void start_journal();
    [[nodiscard]] JournalBase journal_base() const;
    void check_outlines();
    void check_crossings();
    void check_ties();
    void seek_stale_ties();
    void seek_clashes();
    void check_site();
    void gather_findings();
    [[nodiscard]] std::vector<Finding> conflict_findings() const;
    void solve();
    [[nodiscard]] Advice::Basis basis() const;
    void take(Solved solved, std::uint64_t revision);
    struct Opened {
        QString path;
        FileStamp stamp;
        ReadOutcome read;
    };
    static Opened read_file(const QString& path);
    QString take_file(Opened opened, bool lock);
    [[nodiscard]] QString may_not_save(const QString& path, bool overwrite_changed) const;
    void saved(const QString& path, std::size_t position);

    Project project_, base_;  ///< base_: without the pending Edit
    Project root_;            ///< the base of all variants; history and journal are of it
    std::uint64_t variant_ = 0;
    std::vector<Conflict> conflicts_;
    std::shared_ptr<AssetStore> assets_;
    bool shares_assets_;
    Site site_{assets_};
    QString state_folder_, journal_trouble_;
    std::shared_ptr<JournalDisk> journal_disk_;
    std::unique_ptr<Journal> journal_;
    Edit pending_;
    ChangeSet pending_touched_;
    History history_;
    std::vector<Finding> network_findings_, outline_findings_, site_findings_, variant_findings_, clash_findings_;
    std::vector<Clash> clashes_;
    Project crossed_;  ///< whose lines were last looked at
    QTimer crossing_;  ///< waits for a moment of rest
    std::vector<Finding> tie_findings_;
    Project tied_;  ///< whose ties were last looked at
    QTimer tying_;  ///< waits for a moment of rest
    Table<Variant> seen_variants_;
    Table<Catchment> outlined_;  ///< catchments whose outlines were last looked at
    std::uint64_t revision_ = 1, generation_ = 0;
    ResultsStore store_;
    std::vector<Finding> data_findings_;
    EventId event_;
    Selection selection_;
    bool dimmed_ = false;
    double solve_ms_ = 0;
    int solve_delay_ = 0;
    QTimer age_;
    QString path_, lock_holder_;
    FileStamp stamp_;
    ProjectLock lock_;
    std::size_t saved_position_ = 0;
    bool edits_lost_ = false;
    std::optional<std::size_t> saving_;  ///< position of the state that is being written
    bool saving_lost_ = false;           ///< and whether it was cut off meanwhile
    std::shared_ptr<Solver> solver_ = std::make_shared<Solver>();
    Task::Failed say_ = [this](const QString& why) { emit failed(why); };
    Task opener_{this, say_}, saver_{this, say_}, issuer_{this, say_};
    Task worker_{this, say_}, outliner_{this, say_}, crosser_{this, say_}, tier_{this, say_};
    Advice advice_{[this] { return basis(); }, say_};
    // Tasks stand last: they are stopped first.
};

}  // namespace culvert::app
