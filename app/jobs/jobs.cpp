#include "app/jobs/jobs.h"

#include <QElapsedTimer>
#include <algorithm>
#include <atomic>
#include <chrono>
#include <exception>
#include <thread>

#include "core/base/wide_registers.h"

namespace rendak::app {

struct Job::Task {
    QString title;
    QElapsedTimer started;
    std::atomic<double> progress{0};
    std::atomic<bool> done{false};
    std::stop_source stop;
    std::function<void()> finish;  ///< empty once it was dropped; touched on the GUI thread only
    std::jthread thread;           ///< last: joined before the rest goes
};

bool Job::running() const {
    const auto task = task_.lock();
    return task != nullptr && task->finish != nullptr;
}

void Job::cancel() {
    if (const auto task = task_.lock()) task->stop.request_stop();
}

void Job::drop() {
    if (const auto task = task_.lock()) {
        task->stop.request_stop();
        task->finish = nullptr;
    }
    task_.reset();
}

Jobs::Jobs(QObject* parent) : QObject(parent) {
    timer_.setInterval(12);
    connect(&timer_, &QTimer::timeout, this, &Jobs::collect);
}

Jobs::~Jobs() {
    cancel_all();  // the threads are joined with their tasks
}

Job Jobs::start(const QString& title, std::function<void(const JobContext&)> work, std::function<void(Error)> failed,
                std::function<void()> finish) {
    auto task = std::make_shared<Job::Task>();
    task->title = title;
    task->started.start();
    task->finish = std::move(finish);
    Job::Task* raw = task.get();
    task->thread = std::jthread([raw, work = std::move(work), failed = std::move(failed)] {
        clear_wide_registers();
        const JobContext context{raw->stop.get_token(), [raw](double x) { raw->progress = x; }};
        try {
            work(context);
        } catch (const std::exception& wrong) {
            failed({ErrorCode::bad_input,
                    std::string("This failed inside Rendak (") + wrong.what() +
                        "). Nothing was changed by it; please report what you did.",
                    {}});
        }
        raw->done = true;
    });
    tasks_.push_back(task);
    timer_.start();
    Q_EMIT changed();
    return Job(task);
}

void Jobs::collect() {
    // A finished job's callback may start another one, or drop others: each is taken out before it is called.
    for (std::size_t i = 0; i < tasks_.size();) {
        if (!tasks_[i]->done) {
            ++i;
            continue;
        }
        const auto task = tasks_[i];
        tasks_.erase(tasks_.begin() + static_cast<std::ptrdiff_t>(i));
        if (const auto finish = std::exchange(task->finish, nullptr)) finish();
    }
    if (tasks_.empty()) timer_.stop();
    Q_EMIT changed();
}

Jobs::Shown Jobs::oldest() const {
    const auto wanted =
        std::find_if(tasks_.begin(), tasks_.end(), [](const auto& task) { return task->finish != nullptr; });
    if (wanted == tasks_.end()) return {};
    const Job::Task& task = **wanted;
    return {task.title, task.progress, static_cast<double>(task.started.elapsed()) / 1000};
}

bool Jobs::stop_within(int milliseconds) {
    cancel_all();
    QElapsedTimer waiting;
    waiting.start();
    while (std::any_of(tasks_.begin(), tasks_.end(), [](const auto& task) { return !task->done; })) {
        if (waiting.elapsed() > milliseconds) return false;
        std::this_thread::sleep_for(std::chrono::milliseconds(5));
    }
    return true;
}

void Jobs::cancel_all() {
    for (const auto& task : tasks_) task->stop.request_stop();
}

}  // namespace rendak::app
