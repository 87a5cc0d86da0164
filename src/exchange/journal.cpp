// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/journal.h"

#include <dirent.h>
#include <fcntl.h>
#include <signal.h>
#include <sys/stat.h>
#include <unistd.h>

#include <boost/crc.hpp>
#include <cerrno>

#include "exchange/assets.h"
#include "exchange/edit_text.h"
#include "exchange/project_file.h"

namespace culvert {
namespace {

constexpr auto between_flushes = std::chrono::milliseconds(200);

bool write_all(int file, const std::string& bytes) {
    for (std::size_t done = 0; done < bytes.size();) {
        const ssize_t n = ::write(file, bytes.data() + done, bytes.size() - done);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) return false;
        done += static_cast<std::size_t>(n);
    }
    return true;
}
bool put(const std::string& path, const std::string& bytes, int flags) {
    const int file = ::open(path.c_str(), O_WRONLY | O_CREAT | O_CLOEXEC | flags, 0600);
    if (file < 0) return false;
    const bool good = write_all(file, bytes);
    return ::close(file) == 0 && good;
}
bool flush_path(const std::string& path, int flags) {
    const int file = ::open(path.c_str(), flags | O_CLOEXEC);
    if (file < 0) return false;
    const bool good = ::fsync(file) == 0;
    ::close(file);
    return good;
}

std::string line_of(const std::string& json) {
    boost::crc_32_type crc;
    crc.process_bytes(json.data(), json.size());
    char sum[10];
    std::snprintf(sum, sizeof sum, "%08x ", crc.checksum());
    return sum + json + "\n";
}
std::string read_all(const std::string& path) {
    const auto bytes = read_whole(path);
    return bytes ? *bytes : std::string();
}
int pid_of(const std::string& name) {
    const auto dash = name.rfind('-');
    return dash == std::string::npos ? 0 : std::atoi(name.c_str() + dash + 1);
}

}  // namespace

bool JournalDisk::create(const std::string& path, const std::string& bytes) { return put(path, bytes, O_TRUNC); }
bool JournalDisk::append(const std::string& path, const std::string& bytes) { return put(path, bytes, O_APPEND); }
bool JournalDisk::flush(const std::string& path) { return flush_path(path, O_WRONLY); }
bool JournalDisk::rename(const std::string& from, const std::string& to) {
    if (::rename(from.c_str(), to.c_str()) != 0) return false;
    flush_path(to.substr(0, to.rfind('/') + 1), O_RDONLY | O_DIRECTORY);
    return true;
}
void JournalDisk::remove(const std::string& path) { ::unlink(path.c_str()); }

std::string content_hash(std::string_view bytes) {
    using Wide = unsigned __int128;
    Wide h = (static_cast<Wide>(0x6c62272e07bb0142ULL) << 64) | 0x62b821756295c58dULL;
    const Wide prime = (static_cast<Wide>(1) << 88) | 0x13bULL;
    for (const char c : bytes) {
        h ^= static_cast<unsigned char>(c);
        h *= prime;
    }
    return id_text(static_cast<std::uint64_t>(h >> 64)) + id_text(static_cast<std::uint64_t>(h));
}

Journal::Journal(std::string path, std::shared_ptr<JournalDisk> disk)
    : path_(std::move(path)),
      disk_(disk ? std::move(disk) : std::make_shared<JournalDisk>()),
      thread_([this] { run(); }) {}

Journal::~Journal() {
    {
        std::scoped_lock lock(mutex_);
        stop_ = true;
    }
    wake_.notify_all();
    thread_.join();
}

void Journal::begin(const Project& base, const std::string& project_path) {
    std::scoped_lock lock(mutex_);
    queue_.clear();
    base_.emplace(base, project_path);
    begun_ = false;
}

void Journal::push(std::string line) {
    {
        std::scoped_lock lock(mutex_);
        queue_.push_back({std::move(line), std::chrono::steady_clock::now()});
    }
    wake_.notify_all();
}
void Journal::record(const Edit& edit) { push(line_of("{\"edit\":" + edit_text(edit) + "}")); }
void Journal::undo() { push(line_of("{\"undo\":true}")); }
void Journal::redo() { push(line_of("{\"redo\":true}")); }
void Journal::saving(const std::string& hash) {
    {
        std::scoped_lock lock(mutex_);
        if (!begun_ && queue_.empty()) return;  // nothing is recorded: there is nothing that the save makes obsolete
    }
    push(line_of("{\"saving\":\"" + hash + "\"}"));
    settle();
}

bool Journal::settle() {
    std::unique_lock lock(mutex_);
    urgent_ = true;
    wake_.notify_all();
    done_.wait(lock, [this] { return queue_.empty() && !busy_; });
    urgent_ = false;
    return !failed_;
}

void Journal::close() {
    settle();
    std::scoped_lock lock(mutex_);
    disk_->remove(path_);
    base_.reset();
    begun_ = false;
}

void Journal::run() {
    std::unique_lock lock(mutex_);
    for (;;) {
        wake_.wait(lock, [this] { return stop_ || !queue_.empty(); });
        if (queue_.empty() && stop_) return;
        std::deque<Item> items;
        items.swap(queue_);
        std::optional<std::pair<Project, std::string>> base;
        if (!begun_) base.swap(base_);
        const bool create = !begun_;
        begun_ = true;
        busy_ = true;
        lock.unlock();
        bool good = true;
        if (create) {
            std::string text, path;
            if (base) {
                text = write_project(base->first);
                path = base->second;
            }
            const std::string head = line_of("{\"calm-culvert-journal\":1,\"project\":" + json_quote(path) +
                                             ",\"saved\":\"" + (path.empty() ? "" : content_hash(text)) + "\"}");
            const std::string beside = path_ + ".new";
            good = disk_->create(beside, head + line_of("{\"base\":" + json_quote(text) + "}")) &&
                   disk_->flush(beside) && disk_->rename(beside, path_);
        }
        good = good && write(items);
        failed_ = failed_ || !good;
        lock.lock();
        busy_ = false;
        done_.notify_all();
        if (!stop_ && queue_.empty()) wake_.wait_for(lock, between_flushes, [this] { return stop_ || urgent_; });
    }
}

bool Journal::write(std::deque<Item>& items) {
    std::string bytes;
    for (const Item& i : items) bytes += i.line;
    if (!disk_->append(path_, bytes) || !disk_->flush(path_)) return false;
    for (const Item& i : items)
        worst_delay_ = std::max<double>(
            worst_delay_, std::chrono::duration<double>(std::chrono::steady_clock::now() - i.made).count());
    return true;
}

Project Recovered::project() const {
    Project p = base;
    for (std::size_t i = 0; i < done; ++i) apply(p, edits[i]);
    return p;
}

std::optional<Recovered> recover(const std::string& journal) {
    const std::string text = read_all(journal);
    Recovered out;
    out.journal = journal;
    bool head = false, base = false;
    std::string saved, now;
    std::size_t saved_at = 0;
    const auto current = [&] {
        if (now.empty()) now = content_hash(read_all(out.project_path));
        return now;
    };
    bool matched = false;
    for (std::size_t at = 0; at < text.size();) {
        const auto end = text.find('\n', at);
        const std::string line = text.substr(at, end == std::string::npos ? end : end - at);
        if (end == std::string::npos || line.size() < 10 || line_of(line.substr(9)) != line + "\n") {
            out.truncated = true;
            break;
        }
        at = end + 1;
        const JsonOutcome json = parse_json(line.substr(9));
        if (!json.ok) break;
        const Json& j = json.root;
        if (!head) {
            const Json *version = j.find("calm-culvert-journal"), *project = j.find("project"), *hash = j.find("saved");
            if (!version || version->text != "1" || !project || !hash) return {};
            out.project_path = project->text;
            saved = hash->text;
            head = true;
        } else if (!base) {
            const Json* project = j.find("base");
            if (!project) return {};
            ReadOutcome read = read_project(project->text);
            if (!read.ok) return {};
            out.base = std::move(read.project);
            base = true;
        } else if (const Json* e = j.find("edit")) {
            auto edit = read_edit(*e);
            if (!edit) break;
            out.edits.resize(out.done);
            out.edits.push_back(std::move(*edit));
            ++out.done;
        } else if (j.find("undo")) out.done -= out.done > 0;
        else if (j.find("redo")) out.done += out.done < out.edits.size();
        else if (const Json* s = j.find("saving"))
            if (!out.project_path.empty() && s->text == current()) {
                matched = true;
                saved_at = out.done;
            }
    }
    if (!base) return {};
    if (matched) {
        // The save went through: what came before it is in the file.
        if (saved_at >= out.done) return {};
        for (std::size_t i = 0; i < saved_at; ++i) apply(out.base, out.edits[i]);
        out.edits.erase(out.edits.begin(), out.edits.begin() + static_cast<std::ptrdiff_t>(saved_at));
        out.done -= saved_at;
    } else if (!out.project_path.empty()) out.file_differs = saved != current();
    if (out.done == 0) return {};
    return out;
}

std::string journal_name(const std::string& folder, const std::string& project_path) {
    static std::atomic<int> count = 0;
    return folder + "/" + (project_path.empty() ? "new" : content_hash(project_path).substr(0, 16)) + "-" +
           std::to_string(++count) + "-" + std::to_string(::getpid()) + ".journal";
}

std::vector<std::string> orphans(const std::string& folder, const std::string& project_path) {
    std::vector<std::string> out;
    const std::string stem = (project_path.empty() ? "new" : content_hash(project_path).substr(0, 16)) + "-";
    if (DIR* d = ::opendir(folder.c_str())) {
        while (const dirent* e = ::readdir(d)) {
            const std::string name = e->d_name;
            if (!name.starts_with(stem) || !name.ends_with(".journal")) continue;
            const int pid = pid_of(name);
            if (pid != ::getpid() && (pid <= 0 || (::kill(pid, 0) != 0 && errno == ESRCH)))
                out.push_back(folder + "/" + name);
        }
        ::closedir(d);
    }
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace culvert
