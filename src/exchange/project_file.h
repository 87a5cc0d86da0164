// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <string>

#include "core/model/project.h"

/// Our project format: UTF-8 JSON, versioned, one element a line in stable order (docs/project-format.md).
namespace culvert {

constexpr int format_version = 2;

struct ReadProblem {
    int line = 0, column = 0;  ///< 1-based; column 0: the whole line
    std::string message;       ///< element, field, value, what is wrong
    std::string remedy;
};

struct ReadOutcome {
    bool ok = false;
    Project project;
    std::vector<ReadProblem> problems;  ///< why it is not ok; or, when ok, what was taken over with a word of warning
    int migrated_from = 0;              ///< the file's older version, 0 if current
};

/// Text of a project; a project read back from it is equal to the one written.
std::string write_project(const Project& project);
ReadOutcome read_project(const std::string& text);

/// Reads a file. Every failure is a problem in words: not there, a directory, empty, not permitted, not ours.
ReadOutcome load_project(const std::string& path);

/// What saving does to the disk; tests put a failing one in its place.
class Disk {
  public:
    virtual ~Disk() = default;
    /// Writes all bytes to a new file and flushes it to the disk. False, with the reason in `error`.
    virtual bool write(const std::string& path, const std::string& bytes, std::string& error);
    virtual bool rename(const std::string& from, const std::string& to, std::string& error);
};

struct SaveOutcome {
    bool ok = false;
    std::string error;  ///< with the remedy
};
/// Atomic: a temporary file beside it, fsync, rename, fsync of the folder. On any failure the old file stands
/// untouched. Links are followed: what they lead to is replaced. What is there and is no regular file (a device, a
/// pipe, a folder) is left alone.
SaveOutcome save_project(const Project& project, const std::string& path, Disk* disk = nullptr);

/// The file that a path leads to, through all links; where the last link leads to nothing yet, the file that saving
/// would make there. Empty, with the reason in `error`, where it leads nowhere (links in a circle, a name too long, a
/// folder that is not there or is closed).
std::string real_path(const std::string& path, std::string& error);

/// All bytes of a regular file, or as many as the limit. Empty, or why it cannot be read.
std::string read_file(const std::string& path, std::string& bytes, std::size_t limit = std::size_t(-1));
/// What is wrong with a path that is to be read: empty, or "there is no such file", "this is a folder", ...
std::string unreadable(const std::string& path);

/// State of a file on disk, to notice that somebody else changed it.
struct FileStamp {
    bool exists = false;
    long long size = 0, modified_ns = 0;
    unsigned long long inode = 0;
    friend bool operator==(const FileStamp&, const FileStamp&) = default;
};
FileStamp stamp_of(const std::string& path);

/// Marks a project as open: "NAME.lock" with host, process and user, locked by the kernel as long as the program lives.
/// On the same machine the kernel decides whether it is held; one of another machine always counts as held.
class ProjectLock {
  public:
    ProjectLock() = default;
    ~ProjectLock() { release(); }
    ProjectLock(const ProjectLock&) = delete;
    ProjectLock& operator=(const ProjectLock&) = delete;
    /// Empty when taken; else who holds it.
    std::string take(const std::string& project_path);
    void release();

  private:
    std::string path_;
    int file_ = -1;
};

}  // namespace culvert
