#pragma once

#include <QObject>
#include <QTimer>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak::app {

/// A piece of work that was started. Copies speak of the same work; one that was never started is not running.
class Job {
  public:
    Job() = default;
    [[nodiscard]] bool running() const;
    /// Asks it to stop. Its result is told all the same: most often that it was cancelled.
    void cancel();
    /// Asks it to stop, and nobody is told of its result.
    void drop();

  private:
    friend class Jobs;
    struct Task;
    explicit Job(const std::shared_ptr<Task>& task) : task_(task) {}
    std::weak_ptr<Task> task_;
};

/// Runs core functions on worker threads. The results are fetched by a short timer on the GUI thread, so workers
/// touch no QObject; `done` is called exactly once a job, on the GUI thread, cancelled jobs included, dropped ones not.
/// An exception in a worker is a bug; it becomes an error that is told like any other.
class Jobs : public QObject {
    Q_OBJECT
  public:
    explicit Jobs(QObject* parent = nullptr);
    ~Jobs() override;

    template <class T>
    Job run(const QString& title, std::function<Result<T>(const JobContext&)> work,
            std::function<void(Result<T>)> done) {
        auto result = std::make_shared<std::optional<Result<T>>>();
        return start(
            title, [result, work = std::move(work)](const JobContext& context) { result->emplace(work(context)); },
            [result](Error error) { result->emplace(pass_on(std::move(error))); },
            [result, done = std::move(done)] { done(std::move(**result)); });
    }

    [[nodiscard]] bool idle() const { return tasks_.empty(); }
    /// The longest-running job, for the progress line; empty title when idle.
    struct Shown {
        QString title;
        double progress = 0;
        double running_s = 0;
    };
    [[nodiscard]] Shown oldest() const;
    void cancel_all();
    /// Asks all jobs to stop and waits for them; false when one has not stopped by then.
    [[nodiscard]] bool stop_within(int milliseconds);

  Q_SIGNALS:
    void changed();

  private:
    Job start(const QString& title, std::function<void(const JobContext&)> work, std::function<void(Error)> failed,
              std::function<void()> finish);
    void collect();

    std::vector<std::shared_ptr<Job::Task>> tasks_;
    QTimer timer_;
};

/// Work of which only the newest request counts: a new one stops the one before, whose result nobody is told of. Goes
/// away with its owner, so that a result never reaches one that is gone.
class Latest {
  public:
    explicit Latest(Jobs& jobs) : jobs_(jobs) {}
    ~Latest() { drop(); }
    Latest(const Latest&) = delete;
    Latest& operator=(const Latest&) = delete;

    template <class T>
    void run(const QString& title, std::function<Result<T>(const JobContext&)> work,
             std::function<void(Result<T>)> done) {
        drop();
        job_ = jobs_.run<T>(title, std::move(work), std::move(done));
    }
    [[nodiscard]] bool running() const { return job_.running(); }
    void drop() { job_.drop(); }

  private:
    Jobs& jobs_;
    Job job_;
};

}  // namespace rendak::app
