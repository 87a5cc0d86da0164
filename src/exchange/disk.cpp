// SPDX-License-Identifier: GPL-3.0-or-later
#include <fcntl.h>
#include <limits.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <cerrno>
#include <cstring>
#include <sstream>

#include "core/base/words.h"
#include "exchange/project_file.h"
#include "exchange/save_text.h"

namespace culvert {
namespace {

std::string folder_of(const std::string& path) {
    const auto slash = path.rfind('/');
    return slash == std::string::npos ? "." : (slash == 0 ? "/" : path.substr(0, slash));
}

std::string reason(int error, const std::string& path) {
    switch (error) {
        case ENOSPC:
        case EDQUOT: return "the disk is full. Free some space, or save elsewhere; nothing is lost";
        case EACCES:
        case EPERM:
            return "no permission to write in " + folder_of(path) + ". Save elsewhere, or change the permission";
        case EROFS: return "the disk is read-only. Save elsewhere";
        case ENOENT: return "the folder " + folder_of(path) + " does not exist";
        case ENOTDIR: return folder_of(path) + " is a file, not a folder";
        case ENAMETOOLONG: return "the name is too long. Give a shorter one";
        case ELOOP: return "the links in it lead in a circle. Give another place";
        default: return std::strerror(error);
    }
}

/// What a file is that is not a regular one.
const char* kind_of_file(mode_t mode) {
    if (S_ISDIR(mode)) return "a folder";
    if (S_ISFIFO(mode)) return "a pipe";
    if (S_ISSOCK(mode)) return "a socket";
    return "a device";
}

}  // namespace

bool Disk::write(const std::string& path, const std::string& bytes, std::string& error) {
    const int file = ::open(path.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
    if (file < 0) {
        error = reason(errno, path);
        return false;
    }
    std::size_t done = 0;
    while (done < bytes.size()) {
        const ssize_t n = ::write(file, bytes.data() + done, bytes.size() - done);
        if (n < 0) {
            if (errno == EINTR) continue;
            error = reason(errno, path);
            ::close(file);
            return false;
        }
        done += static_cast<std::size_t>(n);
    }
    if (::fsync(file) != 0) {
        error = reason(errno, path);
        ::close(file);
        return false;
    }
    if (::close(file) != 0) {
        error = reason(errno, path);
        return false;
    }
    return true;
}

bool Disk::rename(const std::string& from, const std::string& to, std::string& error) {
    if (::rename(from.c_str(), to.c_str()) != 0) {
        error = reason(errno, to);
        return false;
    }
    if (const int folder = ::open(folder_of(to).c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC); folder >= 0) {
        ::fsync(folder);
        ::close(folder);
    }
    return true;
}

std::string real_path(const std::string& path, std::string& error) {
    std::string at = path;
    for (int links = 0; links < 40; ++links) {
        if (char* resolved = ::realpath(at.c_str(), nullptr)) {
            std::string found = resolved;
            ::free(resolved);
            return found;
        }
        if (errno != ENOENT) {
            error = reason(errno, path);
            return {};
        }
        char target[PATH_MAX];
        const ssize_t n = ::readlink(at.c_str(), target, sizeof target - 1);
        if (n < 0) {  // no link, and nothing there yet
            const std::string name = at.substr(at.rfind('/') == std::string::npos ? 0 : at.rfind('/') + 1);
            char* folder = ::realpath(folder_of(at).c_str(), nullptr);
            if (!folder || name.empty()) {
                error = reason(folder ? ENOENT : errno, at);
                ::free(folder);
                return {};
            }
            std::string found = (std::strcmp(folder, "/") ? folder : "") + ("/" + name);
            ::free(folder);
            return found;
        }
        const std::string to(target, static_cast<std::size_t>(n));
        at = to[0] == '/' ? to : folder_of(at) + "/" + to;
    }
    error = reason(ELOOP, path);
    return {};
}

SaveOutcome save_text(const std::string& bytes, const std::string& path, Disk* disk) {
    Disk real;
    if (!disk) disk = &real;
    std::string error;
    const std::string target = real_path(path, error);
    if (target.empty()) return {false, path + ": " + error};
    struct stat s {};
    const bool there = ::stat(target.c_str(), &s) == 0;
    if (there && S_ISDIR(s.st_mode)) return {false, path + ": this is a folder. Give a file name"};
    if (there && !S_ISREG(s.st_mode))
        return {false, path + ": this is " + kind_of_file(s.st_mode) + ", not a file. Give another name"};
    if (there && ::access(target.c_str(), W_OK) != 0)
        return {false, path + ": the file is write-protected. Save under another name"};
    if (target.size() - folder_of(target).size() > NAME_MAX) return {false, path + ": " + reason(ENAMETOOLONG, path)};
    static std::atomic<int> count = 0;
    const std::string temporary =
        folder_of(target) + "/.saving-" + std::to_string(::getpid()) + "-" + std::to_string(++count);
    if (!disk->write(temporary, bytes, error) || !disk->rename(temporary, target, error)) {
        ::unlink(temporary.c_str());
        return {false, path + ": " + error};
    }
    if (there) ::chmod(target.c_str(), s.st_mode & 07777);
    return {true, {}};
}

SaveOutcome save_project(const Project& project, const std::string& path, Disk* disk) {
    return save_text(write_project(project), path, disk);
}

std::string unreadable(const std::string& path) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0) return errno == ENOENT ? "there is no such file" : reason(errno, path);
    if (!S_ISREG(s.st_mode))
        return std::string("this is ") + kind_of_file(s.st_mode) + (S_ISDIR(s.st_mode) ? "" : ", not a file");
    if (::access(path.c_str(), R_OK) != 0) return "there is no permission to read it";
    return {};
}

std::string read_file(const std::string& path, std::string& bytes, std::size_t limit) {
    if (std::string fault = unreadable(path); !fault.empty()) return fault;
    const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (file < 0) return reason(errno, path);
    struct stat s {};
    ::fstat(file, &s);
    bytes.clear();
    const std::size_t wanted = std::min(limit, static_cast<std::size_t>(std::max<off_t>(s.st_size, 0)) + 1);
    std::string error;
    try {
        for (;;) {
            const std::size_t had = bytes.size();
            bytes.resize(std::min(limit, std::max(wanted, had + (1 << 16))));
            const ssize_t n = ::read(file, bytes.data() + had, bytes.size() - had);
            const bool again = n < 0 && errno == EINTR;
            if (n < 0 && !again) error = reason(errno, path);
            bytes.resize(had + static_cast<std::size_t>(std::max<ssize_t>(n, 0)));
            if (!error.empty() || (n == 0 && !again) || bytes.size() >= limit) break;
        }
    } catch (const std::bad_alloc&) { error = "there is not enough memory for it"; }
    ::close(file);
    return error;
}

ReadOutcome load_project(const std::string& path) {
    ReadOutcome out;
    const auto fail = [&](std::string message, std::string remedy) {
        out.problems.push_back({0, 0, std::move(message), std::move(remedy)});
        return out;
    };
    if (const std::string fault = unreadable(path); !fault.empty())
        return fail(fault, fault == "this is a folder" ? "Choose a file in it"
                                                       : "Check the name, the folder and the permission");
    struct stat s {};
    ::stat(path.c_str(), &s);
    if (s.st_size > 2000LL * 1000 * 1000)
        return fail("the file is larger than 2 GB", "This is not a project file of Calm Culvert");
    std::string text;
    if (const std::string fault = read_file(path, text); !fault.empty())
        return fail("it cannot be read: " + fault, "Try again");
    return read_project(text);
}

FileStamp stamp_of(const std::string& path) {
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0) return {};
    return {true, s.st_size, s.st_mtim.tv_sec * 1'000'000'000LL + s.st_mtim.tv_nsec, s.st_ino};
}

std::string ProjectLock::take(const std::string& project_path) {
    release();
    const std::string path = project_path + ".lock";
    char host[256] = "";
    ::gethostname(host, sizeof host - 1);
    const char* user = ::getenv("USER");
    const std::string mine =
        std::string(host) + "\n" + std::to_string(::getpid()) + "\n" + (user ? user : "somebody") + "\n";
    for (int attempt = 0; attempt < 4; ++attempt) {
        const int file = ::open(path.c_str(), O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK, 0644);
        if (file < 0) return {};  // a folder that cannot hold a lock cannot be saved to either: saving will say so
        const bool locked = ::flock(file, LOCK_EX | LOCK_NB) == 0;
        char text[1024] = "";
        const ssize_t n = ::pread(file, text, sizeof text - 1, 0);
        std::istringstream in(std::string(text, static_cast<std::size_t>(std::max<ssize_t>(n, 0))));
        std::string other_host, pid, who;
        std::getline(in, other_host);
        std::getline(in, pid);
        std::getline(in, who);
        const bool elsewhere = !other_host.empty() && other_host != host;
        if (!locked || elsewhere) {
            ::close(file);
            if (!elsewhere && pid == std::to_string(::getpid())) return {};  // another document of this program
            return printable(who.empty() ? "somebody" : who) + " on " +
                   printable(other_host.empty() ? host : other_host);
        }
        struct stat held {
        }, named{};
        if (::fstat(file, &held) != 0 || ::stat(path.c_str(), &named) != 0 || held.st_ino != named.st_ino) {
            ::close(file);  // it was let go and removed between opening and locking
            continue;
        }
        if (::ftruncate(file, 0) != 0 ||
            ::pwrite(file, mine.data(), mine.size(), 0) != static_cast<ssize_t>(mine.size())) {
            ::close(file);
            return {};
        }
        file_ = file;
        path_ = path;
        return {};
    }
    return {};
}

void ProjectLock::release() {
    if (!path_.empty()) ::unlink(path_.c_str());
    if (file_ >= 0) ::close(file_);
    file_ = -1;
    path_.clear();
}

}  // namespace culvert
