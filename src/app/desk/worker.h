// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <condition_variable>
#include <functional>
#include <mutex>
#include <stop_token>
#include <thread>

/// One background thread that runs the newest job only: a new job stops the one that runs and replaces the one that
/// waits.
namespace culvert::app {

class Worker {
  public:
    using Job = std::function<void(std::stop_token)>;

    Worker() : thread_([this](const std::stop_token& stop) { loop(stop); }) {}
    ~Worker() {
        thread_.request_stop();
        cancel();
        wake_.notify_all();
    }
    Worker(const Worker&) = delete;
    Worker& operator=(const Worker&) = delete;

    void run(Job job) {
        const std::lock_guard lock(mutex_);
        running_.request_stop();
        next_ = std::move(job);
        wake_.notify_all();
    }
    void cancel() {
        const std::lock_guard lock(mutex_);
        running_.request_stop();
        next_ = nullptr;
    }

  private:
    void loop(const std::stop_token& stop) {
        while (!stop.stop_requested()) {
            Job job;
            std::stop_token token;
            {
                std::unique_lock lock(mutex_);
                wake_.wait(lock, [&] { return stop.stop_requested() || next_; });
                if (stop.stop_requested()) return;
                job = std::move(next_);
                next_ = nullptr;
                running_ = std::stop_source();
                token = running_.get_token();
            }
            job(token);
        }
    }

    std::mutex mutex_;
    std::condition_variable wake_;
    Job next_;
    std::stop_source running_;
    std::jthread thread_;  ///< last: it starts when all else stands
};

}  // namespace culvert::app
