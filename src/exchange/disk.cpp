// SPDX-License-Identifier: GPL-3.0-or-later
#include <fcntl.h>
#include <signal.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <fstream>
#include <sstream>

#include "exchange/project_file.h"

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
        default: return std::strerror(error);
    }
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

SaveOutcome save_project(const Project& project, const std::string& path, Disk* disk) {
    Disk real;
    if (!disk) disk = &real;
    struct stat s {};
    if (::stat(path.c_str(), &s) == 0 && S_ISDIR(s.st_mode))
        return {false, path + ": this is a folder. Give a file name"};
    if (::access(path.c_str(), F_OK) == 0 && ::access(path.c_str(), W_OK) != 0)
        return {false, path + ": the file is write-protected. Save under another name"};
    // A link stays a link: what it points at is replaced.
    std::string target = path;
    if (char* resolved = ::realpath(path.c_str(), nullptr)) {
        target = resolved;
        ::free(resolved);
    }
    const std::string temporary = target + ".saving-" + std::to_string(::getpid());
    std::string error;
    if (!disk->write(temporary, write_project(project), error) || !disk->rename(temporary, target, error)) {
        ::unlink(temporary.c_str());
        return {false, path + ": " + error};
    }
    if (s.st_mode) ::chmod(target.c_str(), s.st_mode & 07777);
    return {true, {}};
}

ReadOutcome load_project(const std::string& path) {
    ReadOutcome out;
    const auto fail = [&](std::string message, std::string remedy) {
        out.problems.push_back({0, 0, std::move(message), std::move(remedy)});
        return out;
    };
    struct stat s {};
    if (::stat(path.c_str(), &s) != 0)
        return fail(errno == ENOENT ? "there is no such file" : std::strerror(errno), "Check the name and the folder.");
    if (S_ISDIR(s.st_mode)) return fail("this is a folder", "Choose a file in it.");
    if (s.st_size > 2000LL * 1000 * 1000)
        return fail("the file is larger than 2 GB", "This is not a project file of Calm Culvert.");
    std::ifstream in(path, std::ios::binary);
    if (!in) return fail(std::string("it cannot be read: ") + std::strerror(errno), "Check its permission.");
    std::ostringstream text;
    text << in.rdbuf();
    return read_project(std::move(text).str());
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
    for (int attempt = 0; attempt < 2; ++attempt) {
        const int file = ::open(path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0644);
        if (file >= 0) {
            const ssize_t n = ::write(file, mine.data(), mine.size());
            ::close(file);
            if (n == static_cast<ssize_t>(mine.size())) path_ = path;
            return {};
        }
        if (errno != EEXIST)
            return {};  // a folder that cannot hold a lock cannot be saved to either: saving will say so
        std::ifstream in(path);
        std::string other_host, pid, who;
        std::getline(in, other_host);
        std::getline(in, pid);
        std::getline(in, who);
        const bool gone =
            other_host == host && ::kill(static_cast<pid_t>(std::atoi(pid.c_str())), 0) != 0 && errno == ESRCH;
        const bool own = other_host == host && pid == std::to_string(::getpid());
        if (own) return {};
        if (!gone && !pid.empty()) return who + " on " + other_host;
        ::unlink(path.c_str());
    }
    return {};
}

void ProjectLock::release() {
    if (!path_.empty()) ::unlink(path_.c_str());
    path_.clear();
}

}  // namespace culvert
