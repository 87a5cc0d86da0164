// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <string>
#include <vector>

#include "core/terrain/terrain.h"

/// Assets: surfaces, drawings, pictures and issued states. They never change, so each is known by the hash of its
/// content; the project, its Edits and the journal hold the hash only. An asset lies in the folder
/// "NAME.culvert.assets" beside the project once it is saved, and before that in a spool folder, on disk before the
/// Edit that needs it is made.
namespace culvert {

struct Project;

class AssetStore {
  public:
    using Bytes = std::shared_ptr<const std::string>;
    /// @param spool  folder for what no save has taken yet; empty: memory only
    explicit AssetStore(std::string spool = {}) : spool_(std::move(spool)) {}

    /// Keeps bytes, on the disk when this returns (if there is a spool). Safe from any thread.
    std::string add(std::string bytes);
    /// The bytes of a hash: from memory, the project's folder, the spool. Null where it is nowhere, or its content does
    /// not match its hash.
    Bytes find(const std::string& hash) const;
    /// Where to look beside the spool: the folder of an opened project.
    void set_project(const std::string& path);
    void set_spool(const std::string& folder);
    /// Writes what the project needs and the folder lacks. Empty, or what went wrong. What lies in the spool stays:
    /// other projects that are not saved yet, and journals, may need it (see sweep_spool).
    std::string save(const Project& project, const std::string& path);
    /// The folder beside a project's file, where links lead to.
    static std::string folder_of(const std::string& project_path);
    /// Why the last content could not be spooled, so that it is in memory only; empty: it is on the disk.
    [[nodiscard]] std::string trouble() const;

  private:
    mutable std::mutex mutex_;
    mutable std::map<std::string, Bytes> held_;
    std::string spool_, trouble_;
    std::vector<std::string> folders_;  ///< of the opened project: beside its file, then beside the link to it
};

/// Removes what lies in a spool folder for longer than some days and that no journal beside it names.
void sweep_spool(const std::string& spool, const std::string& journals, int days = 30);

/// All bytes of a file; null where it cannot be read.
AssetStore::Bytes read_whole(const std::string& path);

/// Hashes that a project refers to.
std::vector<std::string> assets_of(const Project& project);

/// A surface as text, in our own open form (docs/project-format.md); read back it is equal.
std::string write_surface(const SurfaceData& data);
std::optional<SurfaceData> read_surface(std::string_view text, std::string* error = nullptr);

}  // namespace culvert
