// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <atomic>
#include <chrono>
#include <condition_variable>
#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <thread>
#include <vector>

#include "core/model/edit.h"

/// The journal: every Edit on disk at most a second after it was made, so that a crash or a power cut loses nothing.
///
/// A file of lines, each a checksum and a JSON value: a head, the whole project as it was saved or begun, then each
/// Edit, undo, redo in order (docs/project-format.md). A line that was cut by a crash fails its checksum; it and what
/// follows are dropped. The file is made anew (written beside, flushed, renamed) at the first Edit after an open or a
/// save. What recovery gives back is therefore always a state that the person has seen: the last one whose line reached
/// the disk.
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

/// Content hash of text: 128-bit FNV-1a, 32 hexadecimal digits.
std::string content_hash(std::string_view bytes);

class Journal {
  public:
    /// @param path  the journal's file; it is made at the first record
    Journal(std::string path, std::shared_ptr<JournalDisk> disk = nullptr);
    ~Journal();
    Journal(const Journal&) = delete;
    Journal& operator=(const Journal&) = delete;

    /// A new beginning: the project as it now stands on disk (or is begun), and where. What was recorded before goes
    /// when the first record after this comes, or at `close`.
    void begin(const Project& base, const std::string& project_path);
    void record(const Edit& edit);
    void undo();
    void redo();
    /// A save begins: the file will have this content. Reaches the disk before this returns.
    void saving(const std::string& hash);
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
    void push(std::string line);
    void run();
    bool write(std::deque<Item>& items);

    std::string path_;
    std::shared_ptr<JournalDisk> disk_;
    std::mutex mutex_;
    std::condition_variable wake_, done_;
    std::deque<Item> queue_;
    std::optional<std::pair<Project, std::string>> base_;  ///< of a beginning whose file is not made yet
    bool begun_ = false, busy_ = false, stop_ = false, urgent_ = false;
    std::atomic<bool> failed_ = false;
    std::atomic<double> worst_delay_ = 0;
    std::thread thread_;
};

/// What a journal would bring back.
struct Recovered {
    std::string journal, project_path;  ///< empty path: a project that was never saved
    Project base;
    std::vector<Edit> edits;    ///< in the order to apply
    std::size_t done = 0;       ///< of them, how many were not undone
    bool file_differs = false;  ///< the project file is neither the base nor what was being saved
    bool truncated = false;     ///< a cut line was dropped
    [[nodiscard]] Project project() const;
};
/// None where the file is no journal, or brings nothing back (the save went through).
std::optional<Recovered> recover(const std::string& journal);

/// Journals in a folder whose program is gone; their names end in "-PID.journal". A project's own, or, for an empty
/// path, those of projects that were never saved.
std::vector<std::string> orphans(const std::string& folder, const std::string& project_path);
std::string journal_name(const std::string& folder, const std::string& project_path);

}  // namespace culvert
