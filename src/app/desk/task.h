// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QObject>
#include <QString>
#include <atomic>
#include <condition_variable>
#include <exception>
#include <functional>
#include <mutex>
#include <new>
#include <stop_token>
#include <thread>

/// Work off the interface thread. A task runs its newest job only: a new one stops the one that runs and replaces the
/// one that waits. What a job tells comes on the owner's thread, unless a newer job was given, or the task was
/// cancelled, meanwhile; an exception becomes words. No view talks to a thread.
///
///     task_.run([file](const Turn& turn) {
///         auto content = read(file, turn.stop);
///         turn.tell([this, content] { show(content); });
///     });
namespace culvert::app {

/// One run of a job.
class Turn {
  public:
    std::stop_token stop;
    /// Calls a function on the owner's thread, if this is still the newest run by then.
    template <class F>
    void tell(F f) const {
        if (stop.stop_requested()) return;
        QMetaObject::invokeMethod(
            owner_,
            [newest = newest_, number = number_, f = std::move(f)]() mutable {
                if (*newest == number) f();
            },
            Qt::QueuedConnection);
    }

  private:
    friend class Task;
    QObject* owner_ = nullptr;
    std::shared_ptr<std::atomic<std::uint64_t>> newest_;
    std::uint64_t number_ = 0;
};

class Task {
  public:
    using Job = std::function<void(const Turn&)>;
    using Failed = std::function<void(const QString&)>;

    /// @param failed  called on the owner's thread with what an exception says
    explicit Task(QObject* owner, Failed failed = {})
        : owner_(owner), failed_(std::move(failed)), thread_([this](const std::stop_token& stop) { loop(stop); }) {}
    ~Task() {
        thread_.request_stop();
        cancel();
        wake_.notify_all();
    }
    Task(const Task&) = delete;
    Task& operator=(const Task&) = delete;

    void run(Job job) {
        const std::lock_guard lock(mutex_);
        running_.request_stop();
        ++*newest_;
        next_ = std::move(job);
        wake_.notify_all();
    }
    /// Nothing that was begun is told any more.
    void cancel() {
        const std::lock_guard lock(mutex_);
        running_.request_stop();
        ++*newest_;
        next_ = nullptr;
    }

  private:
    void loop(const std::stop_token& stop) {
        while (!stop.stop_requested()) {
            Job job;
            Turn turn;
            {
                std::unique_lock lock(mutex_);
                wake_.wait(lock, [&] { return stop.stop_requested() || next_; });
                if (stop.stop_requested()) return;
                job = std::move(next_);
                next_ = nullptr;
                running_ = std::stop_source();
                turn.stop = running_.get_token();
                turn.owner_ = owner_;
                turn.newest_ = newest_;
                turn.number_ = *newest_;
            }
            try {
                job(turn);
            } catch (const std::bad_alloc&) {
                fail(turn, "There is not enough memory for it.");
            } catch (const std::exception& e) { fail(turn, QString::fromUtf8(e.what())); }
        }
    }
    void fail(const Turn& turn, const QString& why) {
        if (failed_) turn.tell([failed = failed_, why] { failed(why); });
    }

    QObject* owner_;
    Failed failed_;
    std::shared_ptr<std::atomic<std::uint64_t>> newest_ = std::make_shared<std::atomic<std::uint64_t>>(0);
    std::mutex mutex_;
    std::condition_variable wake_;
    Job next_;
    std::stop_source running_;
    std::jthread thread_;  ///< last: it starts when all else stands
};

}  // namespace culvert::app
