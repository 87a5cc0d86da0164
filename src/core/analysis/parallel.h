// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <tbb/parallel_for.h>

#include <atomic>
#include <cstddef>

/// Loops on as many threads as there are.
namespace culvert {

/// Runs a body for 0 to count - 1, in any order, and returns when all have ended. What the body wrote is seen after it.
///
/// The library orders the loop after what comes before and before what follows; the counter says so to checkers of
/// threads, which do not look into it.
template <class Body>
void in_parallel(std::size_t count, const Body& body) {
    std::atomic<std::size_t> ended = 0;
    ended.store(0, std::memory_order_release);
    tbb::parallel_for(std::size_t{0}, count, [&](std::size_t i) {
        (void)ended.load(std::memory_order_acquire);
        body(i);
        ended.fetch_add(1, std::memory_order_acq_rel);
    });
    (void)ended.load(std::memory_order_acquire);
}

}  // namespace culvert
