// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <atomic>
#include <cstdint>
#include <iterator>
#include <memory>
#include <optional>
#include <vector>

/// Rows of one kind, sorted by id, chunked and copy-on-write.
///
/// Copying a table copies one pointer; changing a row copies its chunk (at most 64 rows) and the list of chunks. So a
/// snapshot for a solver thread or for history costs microseconds, and the order of rows never depends on how they
/// came. A copy may be read on another thread while this one is changed.
namespace culvert {

template <class Row>
class Table {
    static constexpr std::size_t chunk_rows = 64;
    using Chunk = std::vector<Row>;
    using Chunks = std::vector<std::shared_ptr<Chunk>>;

  public:
    class Iterator {
      public:
        using iterator_category = std::forward_iterator_tag;
        using value_type = Row;
        using pointer = const Row*;
        using reference = const Row&;
        using difference_type = std::ptrdiff_t;
        Iterator() = default;
        Iterator(const Chunks* chunks, std::size_t chunk) : chunks_(chunks), chunk_(chunk) {}
        const Row& operator*() const { return (*(*chunks_)[chunk_])[row_]; }
        const Row* operator->() const { return &**this; }
        Iterator& operator++() {
            if (++row_ == (*chunks_)[chunk_]->size()) {
                row_ = 0;
                ++chunk_;
            }
            return *this;
        }
        Iterator operator++(int) {
            Iterator old = *this;
            ++*this;
            return old;
        }
        friend bool operator==(const Iterator& a, const Iterator& b) {
            return a.chunk_ == b.chunk_ && a.row_ == b.row_;
        }

      private:
        const Chunks* chunks_ = nullptr;
        std::size_t chunk_ = 0, row_ = 0;
    };

    Table() : chunks_(std::make_shared<Chunks>()) {}

    [[nodiscard]] std::size_t size() const { return size_; }
    [[nodiscard]] bool empty() const { return size_ == 0; }
    [[nodiscard]] Iterator begin() const { return {chunks_.get(), 0}; }
    [[nodiscard]] Iterator end() const { return {chunks_.get(), chunks_->size()}; }

    /// The row with this id, or null.
    [[nodiscard]] const Row* find(std::uint64_t id) const {
        const auto [chunk, row] = place(id);
        if (chunk >= chunks_->size()) return nullptr;
        const Chunk& c = *(*chunks_)[chunk];
        return row < c.size() && c[row].id == id ? &c[row] : nullptr;
    }
    /// The row for changing, or null. Its id must not be changed.
    Row* change(std::uint64_t id) {
        const auto [chunk, row] = place(id);
        if (chunk >= chunks_->size()) return nullptr;
        const Chunk& c = *(*chunks_)[chunk];
        if (row >= c.size() || c[row].id != id) return nullptr;
        return &own(chunk)[row];
    }
    /// Adds a row; false if its id is already there.
    bool insert(Row row) {
        own_list();
        if (chunks_->empty()) {  // an empty chunk never stands in the list
            chunks_->push_back(std::make_shared<Chunk>(1, std::move(row)));
            size_ = 1;
            return true;
        }
        auto [chunk, at] = place(row.id);
        Chunk& c = own(chunk);
        if (at < c.size() && c[at].id == row.id) return false;
        c.insert(c.begin() + static_cast<std::ptrdiff_t>(at), std::move(row));
        ++size_;
        if (c.size() > chunk_rows) {
            auto upper = std::make_shared<Chunk>(c.begin() + chunk_rows / 2, c.end());
            c.resize(chunk_rows / 2);
            chunks_->insert(chunks_->begin() + static_cast<std::ptrdiff_t>(chunk) + 1, std::move(upper));
        }
        return true;
    }
    bool erase(std::uint64_t id) {
        const auto [chunk, row] = place(id);
        if (!find(id)) return false;
        Chunk& c = own(chunk);
        c.erase(c.begin() + static_cast<std::ptrdiff_t>(row));
        if (c.empty()) chunks_->erase(chunks_->begin() + static_cast<std::ptrdiff_t>(chunk));
        --size_;
        return true;
    }
    /// Whether the two share all storage: equal without looking at a row.
    [[nodiscard]] bool same(const Table& other) const { return chunks_ == other.chunks_; }
    /// Rows that differ from those of an earlier state of this table, now and before; none where rows came or went, or
    /// where more than `most` differ. Chunks that are shared are not looked into.
    [[nodiscard]] std::optional<std::vector<std::pair<const Row*, const Row*>>> changed_since(const Table& before,
                                                                                              std::size_t most) const {
        std::vector<std::pair<const Row*, const Row*>> rows;
        if (same(before)) return rows;
        if (chunks_->size() != before.chunks_->size()) return {};
        for (std::size_t i = 0; i < chunks_->size(); ++i) {
            const auto &now = (*chunks_)[i], &old = (*before.chunks_)[i];
            if (now == old) continue;
            if (now->size() != old->size()) return {};
            for (std::size_t k = 0; k < now->size(); ++k) {
                if ((*now)[k].id != (*old)[k].id) return {};
                if ((*now)[k] == (*old)[k]) continue;
                if (rows.size() == most) return {};
                rows.emplace_back(&(*now)[k], &(*old)[k]);
            }
        }
        return rows;
    }
    friend bool operator==(const Table& a, const Table& b) {
        return a.same(b) || (a.size_ == b.size_ && std::equal(a.begin(), a.end(), b.begin()));
    }

  private:
    struct Place {
        std::size_t chunk, row;
    };
    [[nodiscard]] Place place(std::uint64_t id) const {
        const Chunks& list = *chunks_;
        auto next = std::upper_bound(list.begin(), list.end(), id,
                                     [](std::uint64_t v, const auto& c) { return v < c->front().id; });
        const std::size_t chunk = next == list.begin() ? 0 : static_cast<std::size_t>(next - list.begin()) - 1;
        if (chunk >= list.size()) return {chunk, 0};
        const Chunk& c = *list[chunk];
        const auto row =
            std::lower_bound(c.begin(), c.end(), id, [](const Row& r, std::uint64_t v) { return r.id < v; });
        return {chunk, static_cast<std::size_t>(row - c.begin())};
    }
    void own_list() {
        if (chunks_.use_count() != 1) chunks_ = std::make_shared<Chunks>(*chunks_);
        else std::atomic_thread_fence(std::memory_order_acquire);  // another thread may just have let go of it
    }
    Chunk& own(std::size_t chunk) {
        own_list();
        auto& c = (*chunks_)[chunk];
        if (c.use_count() != 1) c = std::make_shared<Chunk>(*c);
        else std::atomic_thread_fence(std::memory_order_acquire);
        return *c;
    }

    std::shared_ptr<Chunks> chunks_;
    std::size_t size_ = 0;
};

}  // namespace culvert
