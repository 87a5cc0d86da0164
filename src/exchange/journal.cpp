// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/journal.h"

#include <dirent.h>
#include <fcntl.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>
#include <map>

#include <boost/crc.hpp>
#include <cerrno>
#include <charconv>

#include "exchange/content_hash.h"
#include "exchange/edit_text.h"

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
/// Descriptor of a file that is locked for this program, or -1.
int lock_file(const std::string& path) {
    const int file = ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK);
    if (file >= 0 && ::flock(file, LOCK_EX | LOCK_NB) == 0) return file;
    if (file >= 0) ::close(file);
    return -1;
}

std::string line_of(const std::string& json) {
    boost::crc_32_type crc;
    crc.process_bytes(json.data(), json.size());
    return id_text(crc.checksum()).substr(8) + " " + json + "\n";
}
std::string read_all(const std::string& path) {
    std::string bytes;
    return read_file(path, bytes).empty() ? bytes : std::string();
}
std::string stamp_text(const FileStamp& s) {
    return "[" + std::to_string(s.size) + "," + std::to_string(s.modified_ns) + "," + std::to_string(s.inode) + "]";
}
FileStamp stamp_in(const Json& j) {
    FileStamp s;
    if (j.items.size() != 3) return s;
    const auto number = [&j](std::size_t i, auto& value) {
        const std::string& t = j.items[i].text;
        return std::from_chars(t.data(), t.data() + t.size(), value).ec == std::errc();
    };
    s.exists = number(0, s.size) && number(1, s.modified_ns) && number(2, s.inode);
    return s;
}

/// The line that begins at a place, without its checksum; none where it is cut or damaged.
std::optional<std::string> line_at(const std::string& text, std::size_t& at) {
    const auto end = text.find('\n', at);
    if (end == std::string::npos || end < at + 10) return {};
    std::string json = text.substr(at + 9, end - at - 9);
    if (text.compare(at, end - at + 1, line_of(json)) != 0) return {};
    at = end + 1;
    return json;
}

struct Head {
    std::string path, saved;
    FileStamp stamp;
    bool unsaved = false;
    std::uint64_t variant = 0;
};
std::optional<Head> head_in(const std::string& line) {
    const JsonOutcome json = parse_json(line);
    if (!json.ok) return {};
    const Json &j = json.root, *version = j.find("calm-culvert-journal"), *project = j.find("project"),
               *saved = j.find("saved");
    if (!version || (version->text != "1" && version->text != "2") || !project || !saved) return {};
    Head h{project->text, saved->text, {}, false, 0};
    if (const Json* stamp = j.find("stamp")) h.stamp = stamp_in(*stamp);
    if (const Json* unsaved = j.find("unsaved")) h.unsaved = unsaved->flag;
    if (const Json* variant = j.find("variant")) h.variant = read_id(variant->text);
    return h;
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

Journal::Journal(std::string path, std::shared_ptr<JournalDisk> disk, Millis retry)
    : path_(std::move(path)),
      disk_(disk ? std::move(disk) : std::make_shared<JournalDisk>()),
      retry_(retry),
      thread_([this] { run(); }) {}

Journal::~Journal() {
    {
        const std::scoped_lock lock(mutex_);
        stop_ = true;
    }
    wake_.notify_all();
    thread_.join();
    if (locked_ >= 0) ::close(locked_);
}

void Journal::begin(JournalBase base) {
    const std::scoped_lock lock(mutex_);
    queue_.clear();
    latest_ = base;
    base_ = std::move(base);
    begun_ = false;
    failed_ = false;
    ++generation_;
    depth_ = ahead_ = 0;
}

/// While the disk does not take the journal there are no lines: its next base holds all.
void Journal::push(std::unique_lock<std::mutex>& lock, std::string line) {
    if (!failed_ || busy_) queue_.push_back({std::move(line), std::chrono::steady_clock::now()});
    lock.unlock();
    wake_.notify_all();
}
void Journal::record(const Edit& edit, const Project& after) {
    std::unique_lock lock(mutex_);
    latest_.project = after;
    ++depth_;
    ahead_ = 0;
    push(lock, line_of("{\"edit\":" + short_edit_text(edit) + "}"));
}
void Journal::undo(const Edit& undone, const Project& after) {
    std::unique_lock lock(mutex_);
    latest_.project = after;
    ++ahead_;
    const bool here = depth_ > 0;
    if (here) --depth_;
    push(lock, line_of(here ? std::string("{\"undo\":true}") : "{\"undo\":" + edit_text(undone) + "}"));
}
void Journal::redo(const Edit& redone, const Project& after) {
    std::unique_lock lock(mutex_);
    latest_.project = after;
    ++depth_;
    const bool here = ahead_ > 0;
    if (here) --ahead_;
    push(lock, line_of(here ? std::string("{\"redo\":true}") : "{\"redo\":" + edit_text(redone) + "}"));
}
void Journal::show_variant(std::uint64_t id) {
    std::unique_lock lock(mutex_);
    latest_.variant = id;
    // Looking at another variant is no change that must be brought back by itself.
    if (base_ && queue_.empty()) base_->variant = id;
    else push(lock, line_of("{\"variant\":\"" + id_text(id) + "\"}"));
}
void Journal::saving(const std::string& hash) {
    std::unique_lock lock(mutex_);
    if (!begun_ && !busy_ && queue_.empty())
        return;  // nothing is recorded: there is nothing that the save makes obsolete
    push(lock, line_of("{\"saving\":\"" + hash + "\"}"));
    settle();
}

bool Journal::keep() {
    {
        std::unique_lock lock(mutex_);
        if (base_) push(lock, line_of("{\"variant\":\"" + id_text(latest_.variant) + "\"}"));
    }
    return settle();
}

bool Journal::settle() {
    std::unique_lock lock(mutex_);
    urgent_ = true;
    wake_.notify_all();
    done_.wait(lock, [this] { return (queue_.empty() || failed_) && !busy_; });
    urgent_ = false;
    return !failed_;
}

void Journal::close() {
    settle();
    const std::scoped_lock lock(mutex_);
    queue_.clear();
    if (begun_ || failed_) disk_->remove(path_);
    base_.reset();
    begun_ = false;
    failed_ = false;
    ++generation_;
}

void Journal::run() {
    std::unique_lock lock(mutex_);
    for (;;) {
        if (failed_) wake_.wait_for(lock, retry_, [this] { return stop_; });
        else wake_.wait(lock, [this] { return stop_ || !queue_.empty(); });
        if (stop_ && queue_.empty() && !failed_) return;
        if (!failed_ && queue_.empty()) continue;
        std::optional<JournalBase> base;
        if (failed_) {  // anew, from what stands now
            base = latest_;
            base->unsaved = true;
            depth_ = ahead_ = 0;
            queue_.clear();
        } else if (!begun_) base.swap(base_);
        std::deque<Item> items;
        items.swap(queue_);
        busy_ = true;
        const unsigned generation = generation_;
        lock.unlock();
        const bool good = (!base || make(*base)) && write(items);
        lock.lock();
        busy_ = false;
        const bool was = failed_;
        if (generation == generation_) {
            failed_ = !good;
            if (good) begun_ = true;
            else queue_.clear();
        }
        done_.notify_all();
        if (generation == generation_ && was == good && tell_) {
            lock.unlock();
            tell_(!good);
            lock.lock();
        }
        if (stop_ && !good) return;
        if (!stop_ && good && queue_.empty())
            wake_.wait_for(lock, between_flushes, [this] { return stop_ || urgent_; });
    }
}

bool Journal::make(const JournalBase& base) {
    const std::string text = write_project(base.project);
    const std::string head =
        line_of("{\"calm-culvert-journal\":2,\"project\":" + json_quote(base.path) + ",\"saved\":\"" +
                content_hash(text) + "\"" + (base.stamp.exists ? ",\"stamp\":" + stamp_text(base.stamp) : "") +
                (base.unsaved ? ",\"unsaved\":true" : "") +
                (base.variant ? ",\"variant\":\"" + id_text(base.variant) + "\"" : "") + "}");
    const std::string beside = path_ + ".new";
    if (!disk_->create(beside, head + line_of("{\"base\":" + json_quote(text) + "}")) || !disk_->flush(beside)) {
        disk_->remove(beside);
        return false;
    }
    const int locked = lock_file(beside);  // before it bears its name, so that nobody finds it left
    if (!disk_->rename(beside, path_)) {
        if (locked >= 0) ::close(locked);
        disk_->remove(beside);
        return false;
    }
    if (locked_ >= 0) ::close(locked_);
    locked_ = locked;
    return true;
}

bool Journal::write(const std::deque<Item>& items) {
    if (items.empty()) return true;
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
    std::size_t at = 0;
    const auto first = line_at(text, at);
    const auto head = first ? head_in(*first) : std::nullopt;
    const auto second = head ? line_at(text, at) : std::nullopt;
    if (!second) return {};
    {
        const JsonOutcome json = parse_json(*second);
        const Json* base = json.ok ? json.root.find("base") : nullptr;
        if (!base) return {};
        ReadOutcome read = read_project(base->text);
        if (!read.ok) return {};
        out.base = std::move(read.project);
    }
    out.project_path = head->path;
    out.stamp = head->stamp;
    out.variant = head->variant;
    std::string now;
    const FileStamp stamp_now = head->path.empty() ? FileStamp{} : stamp_of(head->path);
    if (stamp_now.exists) now = read_all(head->path);
    // What the project file holds: the base, what was being saved when the program ended, or neither.
    bool matched = !head->unsaved && (head->path.empty() || (stamp_now.exists && is_content_of(now, head->saved)));
    // What stands in each variant, as the lines go by: an Edit there says only what it changed of it.
    std::map<std::uint64_t, std::string> overlays;
    for (const Variant& v : out.base.variants) overlays[v.id] = v.changes;
    const auto follow = [&overlays](const Edit& edit, bool forward) {
        const std::size_t field = *field_index(Kind::Variant, "changes");
        for (const Change& c : edit.changes) {
            if (const Patch* p = std::get_if<Patch>(&c)) {
                if (p->kind == Kind::Variant && p->field == field)
                    overlays[p->id] = std::get<std::string>(forward ? p->after : p->before);
                continue;
            }
            const bool insert = std::holds_alternative<Insert>(c);
            const AnyRow& row = insert ? std::get<Insert>(c).row : std::get<Delete>(c).row;
            if (const Variant* v = std::get_if<Variant>(&row)) {
                if (insert == forward) overlays[v->id] = v->changes;
                else overlays.erase(v->id);
            }
        }
    };
    const auto take = [&](Json j) {
        std::vector<std::string> problems;
        expand_splices(j, [&](const std::string& kind, std::uint64_t id, const std::string& key) {
            const auto text_there = overlays.find(id);
            return kind == kind_name(Kind::Variant) && key == "changes" && text_there != overlays.end()
                       ? &text_there->second
                       : nullptr;
        });
        auto edit = read_edit(j, &problems);
        if (edit && !problems.empty()) {
            out.left_out.push_back(edit->name + ": " + problems.front());
            edit->changes.clear();
        }
        return edit;
    };
    bool cut = false;  // the branch that was saved is no more
    while (at < text.size()) {
        const auto line = line_at(text, at);
        if (!line) {
            out.truncated = true;
            break;
        }
        const JsonOutcome json = parse_json(*line);
        if (!json.ok) break;
        const Json& j = json.root;
        if (const Json* e = j.find("edit")) {
            auto edit = take(*e);
            if (!edit) break;
            cut = cut || out.saved_at > out.done;
            out.edits.resize(out.done);
            follow(*edit, true);
            out.edits.push_back(std::move(*edit));
            ++out.done;
        } else if (const Json* u = j.find("undo")) {
            if (u->type == Json::Type::Object) {  // made before the base: it stood in it
                auto edit = take(*u);
                if (!edit || out.done != 0) break;
                revert(out.base, *edit);
                follow(*edit, false);
                out.edits.insert(out.edits.begin(), std::move(*edit));
                ++out.saved_at;
            } else if (out.done > 0) follow(out.edits[--out.done], false);
        } else if (const Json* r = j.find("redo")) {
            if (r->type == Json::Type::Object) {
                auto edit = take(*r);
                if (!edit) break;
                cut = cut || out.saved_at > out.done;
                out.edits.resize(out.done);
                follow(*edit, true);
                out.edits.push_back(std::move(*edit));
                ++out.done;
            } else if (out.done < out.edits.size()) follow(out.edits[out.done++], true);
        } else if (const Json* v = j.find("variant")) out.variant = read_id(v->text);
        else if (const Json* s = j.find("saving")) {
            if (stamp_now.exists && is_content_of(now, s->text)) {  // that save went through
                matched = true;
                cut = false;
                out.saved_at = out.done;
                out.stamp = stamp_now;
            }
        }
    }
    out.file_gone = !head->path.empty() && !stamp_now.exists;
    out.file_differs = stamp_now.exists && !matched && !(out.stamp == stamp_now);
    if (!head->unsaved && out.done == out.saved_at && !cut && !out.file_gone) return {};
    if (out.file_gone && out.edits.empty() && !head->unsaved) return {};
    return out;
}

std::string journal_name(const std::string& folder, const std::string& project_path) {
    static std::atomic<int> count = 0;
    return folder + "/" + (project_path.empty() ? "new" : content_hash(project_path).substr(0, 16)) + "-" +
           std::to_string(++count) + "-" + id_text(random_id()) + ".journal";
}

std::vector<std::string> journals_left(const std::string& folder, const std::string& project_path) {
    std::vector<std::string> out;
    DIR* d = ::opendir(folder.c_str());
    if (!d) return out;
    const FileStamp stamp = project_path.empty() ? FileStamp{} : stamp_of(project_path);
    while (const dirent* e = ::readdir(d)) {
        const std::string name = folder + "/" + e->d_name;
        if (!name.ends_with(".journal")) continue;
        const int lock = lock_file(name);
        if (lock < 0) continue;  // a program holds it
        ::close(lock);
        if (!project_path.empty()) {
            std::string text;
            std::size_t at = 0;
            if (!read_file(name, text, 1 << 16).empty()) continue;
            const auto line = line_at(text, at);
            const auto head = line ? head_in(*line) : std::nullopt;
            if (!head) continue;
            const bool renamed = head->path != project_path && stamp.exists && head->stamp.exists &&
                                 head->stamp.inode == stamp.inode && !stamp_of(head->path).exists;
            if (head->path != project_path && !renamed) continue;
        }
        out.push_back(name);
    }
    ::closedir(d);
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace culvert
