// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include "core/model/edit.h"
#include "exchange/project_file.h"

/// The journal: every Edit on disk at most a second after it was made, so that a crash or a power cut loses nothing.
///
/// A file of lines, each a checksum and a JSON value: a head, the whole project as it was saved or begun, then each
/// Edit, undo, redo and change of variant in order (docs/project-format.md). What is undone or redone that the file
/// does not hold, since it was made before the last save, stands in the line itself. A line that was cut by a crash
/// fails its checksum; it and what follows are dropped. The file is made anew (written beside, flushed, renamed) at the
/// first change after an open or a save. What recovery gives back is therefore always a state that the person has seen:
/// the last one whose line reached the disk.
///
/// Where the disk does not take a line, that is said at once and stays said; the journal then tries again, with the
/// project as it is by then as its new base, until the disk takes that.
///
/// While its program runs the file is locked by the kernel; a journal that can be locked is one that was left.
namespace culvert {

/// What the journal does to the disk; tests put one in its place that fails or is killed at any step.
class JournalDisk {
  public:
    virtual ~JournalDisk() = default;
    virtual bool create(const std::string& path, const std::string& bytes);  ///< whole new file, not yet flushed
    virtual bool append(const std::string& path, const std::string& bytes);
    virtual bool flush(const std::string& path);
    virtual bool rename(const std::string& from, const std::string& to);
    virtual void remove(const std::string& path);
};

/// What a journal begins from.
struct JournalBase {
    Project project;
    std::string path;           ///< of its file, through no link; empty: never saved
    FileStamp stamp;            ///< of that file when it was read or written
    bool unsaved = false;       ///< the project is not what the file holds
    std::uint64_t variant = 0;  ///< the one that is shown
};

class Journal {
  public:
    using Millis = std::chrono::milliseconds;
    /// @param path   the journal's file; it is made at the first record
    /// @param retry  time between two tries where the disk does not take it
    Journal(std::string path, std::shared_ptr<JournalDisk> disk = nullptr, Millis retry = Millis(2000));
    ~Journal();
    Journal(const Journal&) = delete;
    Journal& operator=(const Journal&) = delete;

    /// Called on the journal's own thread when it cannot be written (true), and when it can again (false). Set it
    /// before the first record.
    void on_trouble(std::function<void(bool)> tell) { tell_ = std::move(tell); }

    /// A new beginning: the project as it now stands on disk (or is begun), and where. What was recorded before goes
    /// when the first record after this comes, or at `close`.
    void begin(JournalBase base);
    /// An Edit was made; `after` is the project with it.
    void record(const Edit& edit, const Project& after);
    void undo(const Edit& undone, const Project& after);
    void redo(const Edit& redone, const Project& after);
    void show_variant(std::uint64_t id);
    /// A save begins: the file will have this content. Reaches the disk before this returns.
    void saving(const std::string& hash);
    /// Puts the beginning on disk without waiting for a change. False: it could not be written.
    bool keep();
    /// Everything recorded is on disk when this returns. False: it could not be written.
    bool settle();
    /// All is saved or given up: the journal is removed.
    void close();
    [[nodiscard]] bool failed() const { return failed_; }
    [[nodiscard]] const std::string& path() const { return path_; }
    /// Worst time between a record and its flush so far, s.
    [[nodiscard]] double worst_delay() const { return worst_delay_; }

  private:
    struct Item {
        std::string line;
        std::chrono::steady_clock::time_point made;
    };
    void push(std::unique_lock<std::mutex>& lock, std::string line);
    void run();
    bool make(const JournalBase& base);
    bool write(const std::deque<Item>& items);

    std::string path_;
    std::shared_ptr<JournalDisk> disk_;
    Millis retry_;
    std::function<void(bool)> tell_;
    std::mutex mutex_;
    std::condition_variable wake_, done_;
    std::deque<Item> queue_;
    JournalBase latest_;                 ///< with the project as of the last record
    std::size_t depth_ = 0, ahead_ = 0;  ///< Edits in the file that stand, and that are undone
    bool begun_ = false, busy_ = false, stop_ = false, urgent_ = false;
    unsigned generation_ = 0;          ///< of beginnings: what a write of an older one did no longer counts
    std::optional<JournalBase> base_;  ///< of a beginning whose file is not made yet
    std::atomic<bool> failed_ = false;
    std::atomic<double> worst_delay_ = 0;
    int locked_ = -1;  ///< descriptor that holds the kernel's lock
    std::thread thread_;
};

/// What a journal would bring back.
struct Recovered {
    std::string journal, project_path;  ///< empty path: a project that was never saved
    Project base;
    std::vector<Edit> edits;            ///< in the order to apply
    std::size_t done = 0;               ///< of them, how many were not undone
    std::size_t saved_at = 0;           ///< of them, how many the project file holds
    std::uint64_t variant = 0;          ///< the one that was shown
    FileStamp stamp;                    ///< of the project file as the journal knew it
    bool file_differs = false;          ///< the project file is neither the base nor what was being saved
    bool file_gone = false;             ///< there is no project file any more
    bool truncated = false;             ///< a cut line was dropped
    std::vector<std::string> left_out;  ///< Edits that do not fit: name and why
    [[nodiscard]] Project project() const;
};
/// None where the file is no journal, or brings nothing back (the save went through).
std::optional<Recovered> recover(const std::string& journal);

/// Journals in a folder that no program holds any more. For a path: those of that project, also where it was renamed
/// since; for an empty path: all of them.
std::vector<std::string> journals_left(const std::string& folder, const std::string& project_path);
/// A name that no other journal has.
std::string journal_name(const std::string& folder, const std::string& project_path);

}  // namespace culvert
