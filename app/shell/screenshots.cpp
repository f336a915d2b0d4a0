#include "app/shell/screenshots.h"

#include <QApplication>
#include <QDir>
#include <QTextStream>

#include "app/jobs/wait_until.h"
#include "app/shell/main_window.h"
#include "app/theme/theme.h"

namespace rendak::app {
namespace {

class Folder : public PictureBook {
  public:
    Folder(MainWindow& window, QString folder) : window_(window), folder_(std::move(folder)) {}

    void settle() override { fine_ = wait_until_idle(window_) && fine_; }
    void take(const QString& name) override { take(name, window_); }
    void take(const QString& name, QWidget& widget) override {
        settle();
        const QString file = folder_ + u'/' + name + QStringLiteral(".png");
        if (widget.grab().save(file)) return;
        QTextStream(stderr) << "rendak: cannot write " << file << "\n";
        fine_ = false;
    }
    void take_garage(const QString& name) override {
        const bool before = is_garage();
        apply_theme(true);
        window_.repaint_all();
        take(name);
        apply_theme(before);
        window_.repaint_all();
    }
    [[nodiscard]] std::filesystem::path demo_files() const override {
        return window_.workspace().library().folder() / "demo-files";
    }
    [[nodiscard]] bool fine() const { return fine_; }

  private:
    MainWindow& window_;
    QString folder_;
    bool fine_ = true;
};

/// The best laps of the two latest runs of the first session that has some.
void pick_laps(Workspace& workspace) {
    const auto runs = workspace.shown(workspace.library().runs());
    std::vector<RunId> picked;
    for (const RunRow& run : runs) {
        if (run.event != runs.front().event || run.session != runs.front().session) continue;
        for (const Lap& lap : workspace.shown(workspace.library().laps(run.id))) {
            if (lap.counts()) {
                picked.push_back(run.id);
                break;
            }
        }
    }
    for (std::size_t i = picked.size() > 2 ? picked.size() - 2 : 0; i < picked.size(); ++i)
        workspace.pick_best(picked[i]);
}

}  // namespace

bool wait_until_idle(MainWindow& window, double seconds) {
    return wait_until_idle(window.workspace(), seconds);
}

bool wait_until_idle(Workspace& workspace, double seconds) {
    const auto idle = [&] { return workspace.jobs().idle() && !workspace.comparison().busy(); };
    return wait_until(
        [&] {
            if (!idle()) return false;
            // What came last may have begun the next.
            QApplication::processEvents();
            return idle();
        },
        seconds);
}

bool take_screenshots(MainWindow& window, const QString& folder) {
    if (!QDir().mkpath(folder)) {
        QTextStream(stderr) << "rendak: cannot make the folder " << folder << "\n";
        return false;
    }
    Folder book(window, folder);
    Workspace& workspace = window.workspace();
    window.resize(1280, 800);
    window.show();
    workspace.focus().set_state({});
    const auto kinds = all_desks();
    for (const bool of_laps : {false, true}) {
        if (of_laps) pick_laps(workspace);
        for (std::size_t i = 0; i < kinds.size(); ++i) {
            if (kinds[i].of_laps != of_laps) continue;
            window.show_desk(QString::fromLatin1(kinds[i].id));
            book.settle();
            window.desks()[i]->show_pictures(book);
        }
    }
    return book.fine();
}

}  // namespace rendak::app
