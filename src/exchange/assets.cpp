// SPDX-License-Identifier: GPL-3.0-or-later
#include "exchange/assets.h"

#include <sys/stat.h>
#include <unistd.h>

#include <fstream>
#include <set>
#include <sstream>

#include "core/model/project.h"
#include "exchange/journal.h"
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
    std::ifstream in(path, std::ios::binary);
    if (!in) return nullptr;
    std::stringstream s;
    s << in.rdbuf();
    return std::make_shared<const std::string>(std::move(s).str());
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
    if (!spool.empty() && !exists(spool + "/" + hash)) write_whole(spool, hash, *held);
    return hash;
}

AssetStore::Bytes AssetStore::find(const std::string& hash) const {
    if (hash.size() != 32 || hash.find_first_not_of("0123456789abcdef") != std::string::npos) return nullptr;
    std::string folder, spool;
    {
        const std::scoped_lock lock(mutex_);
        if (const auto at = held_.find(hash); at != held_.end()) return at->second;
        folder = folder_;
        spool = spool_;
    }
    for (const std::string& place : {folder, spool}) {
        if (place.empty()) continue;
        const Bytes bytes = read_whole(place + "/" + hash);
        if (!bytes || content_hash(*bytes) != hash) continue;
        const std::scoped_lock lock(mutex_);
        held_[hash] = bytes;
        return bytes;
    }
    return nullptr;
}

void AssetStore::set_project(const std::string& path) {
    const std::scoped_lock lock(mutex_);
    folder_ = path.empty() ? "" : folder_of(path);
}

void AssetStore::set_spool(const std::string& folder) {
    const std::scoped_lock lock(mutex_);
    spool_ = folder;
}

std::string AssetStore::save(const Project& project, const std::string& path) {
    const std::string folder = folder_of(path);
    for (const std::string& hash : assets_of(project)) {
        if (exists(folder + "/" + hash)) continue;
        const Bytes bytes = find(hash);
        if (!bytes) continue;  // it was missing before; the project says so where it is shown
        if (std::string error = write_whole(folder, hash, *bytes); !error.empty()) return error;
    }
    const std::scoped_lock lock(mutex_);
    folder_ = folder;
    if (!spool_.empty())
        for (const std::string& hash : assets_of(project)) ::unlink((spool_ + "/" + hash).c_str());
    return {};
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
