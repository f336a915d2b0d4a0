#include "app/jobs/wait_until.h"

#include <QCoreApplication>
#include <QDeadlineTimer>
#include <QTimer>

namespace rendak::app {

bool wait_until(const std::function<bool()>& holds, double seconds) {
    constexpr int beat_ms = 5;  // not all that is waited for tells that it has come
    const QDeadlineTimer most(static_cast<qint64>(1000 * seconds));
    QTimer beat;
    beat.start(beat_ms);
    while (true) {
        QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
        if (holds()) return true;
        if (most.hasExpired()) return false;
        // Without a time: with one it would not wait, but ask again and again.
        QCoreApplication::processEvents(QEventLoop::WaitForMoreEvents);
    }
}

}  // namespace rendak::app
