// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/assets.h"

#include <sys/stat.h>
#include <unistd.h>

#include <ctime>
#include <filesystem>
#include <set>

#include "core/model/project.h"
#include "exchange/content_hash.h"
#include "exchange/project_file.h"

namespace culvert {
namespace {

bool exists(const std::string& path) { return ::access(path.c_str(), F_OK) == 0; }

/// Whole or not at all: written beside, flushed, renamed.
std::string write_whole(const std::string& folder, const std::string& name, const std::string& bytes) {
    ::mkdir(folder.c_str(), 0755);
    Disk disk;
    std::string error;
    const std::string beside = folder + "/." + name + "-" + std::to_string(::getpid());
    if (disk.write(beside, bytes, error) && disk.rename(beside, folder + "/" + name, error)) return {};
    ::unlink(beside.c_str());
    return folder + ": " + error;
}

}  // namespace

AssetStore::Bytes read_whole(const std::string& path) {
    std::string bytes;
    if (!read_file(path, bytes).empty()) return nullptr;
    return std::make_shared<const std::string>(std::move(bytes));
}

std::string AssetStore::add(std::string bytes) {
    const std::string hash = content_hash(bytes);
    auto held = std::make_shared<const std::string>(std::move(bytes));
    std::string spool;
    {
        const std::scoped_lock lock(mutex_);
        held_[hash] = held;
        spool = spool_;
    }
    std::string fault;
    if (!spool.empty() && !exists(spool + "/" + hash)) fault = write_whole(spool, hash, *held);
    const std::scoped_lock lock(mutex_);
    trouble_ = std::move(fault);
    return hash;
}

std::string AssetStore::trouble() const {
    const std::scoped_lock lock(mutex_);
    return trouble_;
}

AssetStore::Bytes AssetStore::find(const std::string& hash) const {
    if (!is_hash(hash)) return nullptr;
    std::vector<std::string> places;
    {
        const std::scoped_lock lock(mutex_);
        if (const auto at = held_.find(hash); at != held_.end()) return at->second;
        places = folders_;
        places.push_back(spool_);
    }
    for (const std::string& place : places) {
        if (place.empty()) continue;
        Bytes bytes = read_whole(place + "/" + hash);
        if (!bytes || !is_content_of(*bytes, hash)) continue;
        const std::scoped_lock lock(mutex_);
        held_[hash] = bytes;
        return bytes;
    }
    return nullptr;
}

std::string AssetStore::folder_of(const std::string& project_path) {
    std::string error;
    const std::string real = real_path(project_path, error);
    return (real.empty() ? project_path : real) + ".assets";
}

void AssetStore::set_project(const std::string& path) {
    std::vector<std::string> folders;
    if (!path.empty()) folders = {folder_of(path), path + ".assets"};
    const std::scoped_lock lock(mutex_);
    trouble_.clear();  // it was of another project
    folders_ = std::move(folders);
}

void AssetStore::set_spool(const std::string& folder) {
    const std::scoped_lock lock(mutex_);
    spool_ = folder;
}

std::string AssetStore::save(const Project& project, const std::string& path) {
    const std::string folder = folder_of(path);
    for (const std::string& hash : assets_of(project)) {
        if (!is_hash(hash) || exists(folder + "/" + hash)) continue;
        const Bytes bytes = find(hash);
        if (!bytes) continue;  // it was missing before; the project says so where it is shown
        if (std::string error = write_whole(folder, hash, *bytes); !error.empty()) return error;
    }
    const std::scoped_lock lock(mutex_);
    if (folders_.empty() || folders_.front() != folder) folders_.insert(folders_.begin(), folder);
    trouble_.clear();  // all of it is on the disk now
    return {};
}

void sweep_spool(const std::string& spool, const std::string& journals, int days) {
    std::error_code ignored;
    std::string named;
    for (const auto& entry : std::filesystem::directory_iterator(journals, ignored))
        if (entry.path().extension() == ".journal" || entry.path().extension() == ".new") {
            std::string bytes;
            if (!read_file(entry.path().string(), bytes).empty()) return;  // what it needs is not known: keep all
            named += bytes;
        }
    for (const auto& entry : std::filesystem::directory_iterator(spool, ignored)) {
        const std::string hash = entry.path().filename().string();
        struct stat s {};
        if (!is_hash(hash) || ::lstat(entry.path().c_str(), &s) != 0 || !S_ISREG(s.st_mode)) continue;
        if (std::time(nullptr) - s.st_mtime < days * 86400L || named.find(hash) != std::string::npos) continue;
        ::unlink(entry.path().c_str());
    }
}

std::vector<std::string> assets_of(const Project& project) {
    std::set<std::string> all;
    for (const Surface& s : project.surfaces) all.insert(s.asset);
    for (const Background& b : project.backgrounds) all.insert(b.asset);
    for (const Variant& v : project.variants) all.insert(v.asset);
    all.erase("");
    return {all.begin(), all.end()};
}

}  // namespace culvert
