#pragma once

#include <QObject>
#include <QTimer>
#include <atomic>
#include <functional>
#include <memory>
#include <optional>
#include <thread>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"

namespace rendak::app {

/// Runs core functions on worker threads. The results are fetched by a short timer on the GUI thread, so workers
/// touch no QObject; `done` is called exactly once a job, on the GUI thread, cancelled jobs included.
class Jobs : public QObject {
    Q_OBJECT
  public:
    explicit Jobs(QObject* parent = nullptr);
    ~Jobs() override;

    template <class T>
    void run(const QString& title, std::function<Result<T>(const JobContext&)> work,
             std::function<void(Result<T>)> done) {
        auto result = std::make_shared<std::optional<Result<T>>>();
        start(
            title, [result, work = std::move(work)](const JobContext& context) { result->emplace(work(context)); },
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
    struct Task;
    void start(const QString& title, std::function<void(const JobContext&)> work, std::function<void()> finish);
    void collect();

    std::vector<std::unique_ptr<Task>> tasks_;
    QTimer timer_;
};

}  // namespace rendak::app
