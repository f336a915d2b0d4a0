#include "app/desks/collect/practice_logger.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <QStandardPaths>

#include "demo/write_demo.h"

namespace rendak::app {

PracticeLogger::PracticeLogger(Workspace& workspace, QObject* parent) : QObject(parent), workspace_(workspace) {
    connect(&process_, &QProcess::readyReadStandardOutput, this, [this] {
        const QString url = QString::fromUtf8(process_.readAllStandardOutput()).trimmed();
        if (url.startsWith(QLatin1String("http://"))) Q_EMIT ready(url);
    });
    connect(&process_, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error == QProcess::FailedToStart)
            workspace_.tell(Error{ErrorCode::not_found,
                                  "The program rendak-logger was not found beside rendak. Build or install it.", ""});
    });
    connect(&process_, &QProcess::finished, this, [this](int code) {
        if (code != 0)
            workspace_.tell(Error{ErrorCode::io, process_.readAllStandardError().trimmed().toStdString(), ""});
        Q_EMIT stopped();
    });
}

PracticeLogger::~PracticeLogger() {
    process_.disconnect(this);
    process_.closeWriteChannel();
    if (!process_.waitForFinished(2000)) process_.kill();
    process_.waitForFinished(1000);
}

void PracticeLogger::start() {
    if (running()) return;
    const auto own = workspace_.library().folder() / "demo-files" / "card";
    const auto apart = workspace_.library().folder() / "practice";
    for (const auto& card : {own, apart / "demo-files" / "card"}) {
        std::error_code code;
        if (std::filesystem::exists(card / "REC0006.MF4", code)) return launch(QString::fromStdString(card.string()));
    }
    struct Nothing {};
    workspace_.jobs().run<Nothing>(
        tr("Writing the practice card"),
        [apart](const JobContext& job) -> Result<Nothing> {
            if (auto done = demo::write_demo(apart, job, {.sunday = false, .waiting = true}); !done)
                return pass_on(done.error());
            return Nothing{};
        },
        [this, apart](Result<Nothing> done) {
            if (!done) return workspace_.tell(done.error());
            launch(QString::fromStdString((apart / "demo-files" / "card").string()));
        });
}

void PracticeLogger::launch(const QString& card) {
    const QString beside = QCoreApplication::applicationDirPath() + QStringLiteral("/rendak-logger");
    const QString program =
        QFileInfo::exists(beside) ? beside : QStandardPaths::findExecutable(QStringLiteral("rendak-logger"));
    // Its clock is wrong, as loggers' clocks are.
    process_.start(program, {QStringLiteral("--card"), card, QStringLiteral("--until-closed"),
                             QStringLiteral("--clock-offset"), QStringLiteral("-754")});
}

void PracticeLogger::stop() {
    process_.closeWriteChannel();
}

}  // namespace rendak::app
