#include "app/jobs/jobs.h"

#include <QElapsedTimer>
#include <algorithm>
#include <chrono>
#include <thread>

namespace rendak::app {

struct Jobs::Task {
    QString title;
    QElapsedTimer started;
    std::atomic<double> progress{0};
    std::atomic<bool> done{false};
    std::stop_source stop;
    std::function<void()> finish;
    std::jthread thread;
};

Jobs::Jobs(QObject* parent) : QObject(parent) {
    timer_.setInterval(12);
    connect(&timer_, &QTimer::timeout, this, &Jobs::collect);
}

Jobs::~Jobs() {
    cancel_all();  // the threads are joined with their tasks
}

void Jobs::start(const QString& title, std::function<void(const JobContext&)> work, std::function<void()> finish) {
    auto task = std::make_unique<Task>();
    task->title = title;
    task->started.start();
    task->finish = std::move(finish);
    Task* raw = task.get();
    task->thread = std::jthread([raw, work = std::move(work)] {
        const JobContext context{raw->stop.get_token(), [raw](double x) { raw->progress = x; }};
        work(context);
        raw->done = true;
    });
    tasks_.push_back(std::move(task));
    timer_.start();
    Q_EMIT changed();
}

void Jobs::collect() {
    // A finished job's callback may start another one: take it out before calling.
    for (std::size_t i = 0; i < tasks_.size();) {
        if (!tasks_[i]->done) {
            ++i;
            continue;
        }
        const auto task = std::move(tasks_[i]);
        tasks_.erase(tasks_.begin() + static_cast<std::ptrdiff_t>(i));
        task->finish();
    }
    if (tasks_.empty()) timer_.stop();
    Q_EMIT changed();
}

Jobs::Shown Jobs::oldest() const {
    if (tasks_.empty()) return {};
    const Task& task = *tasks_.front();
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
