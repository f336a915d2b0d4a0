// What the window does with names made to do harm, lost catalogues, damaged recordings and jobs that hang.
#include <sys/stat.h>

#include <QDialog>
#include <QHelpEvent>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTableView>
#include <QToolTip>
#include <QTreeView>
#include <fstream>
#include <thread>

#include "app/desks/logbook/library_health.h"
#include "app/shell/foot_line.h"
#include "app/text/plain_text.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"
#include "tests/support/raw_server.h"

namespace rendak::app {
namespace {

namespace fs = std::filesystem;

class LibraryHealthTest : public WindowTest {
  protected:
    Library& library() { return window_->workspace().library(); }
    [[nodiscard]] QString message() const { return window_->findChild<QLabel*>(QStringLiteral("message"))->text(); }
    /// Recordings of the demo are shared by hard links: one that is to be harmed becomes a file of its own.
    fs::path own_recording(int run) {
        const auto file = folder_.path() / test::got(library().run({run})).recording_file;
        fs::copy_file(file, folder_ / "copy.h5");
        fs::remove(file);
        fs::rename(folder_ / "copy.h5", file);
        return file;
    }
};

/// Whether Qt would read a text as more than text, and what for.
bool could_load(const QString& text) {
    return Qt::mightBeRichText(text) && text.contains(QLatin1String("<img"));
}

/// What a tooltip at a place of a widget shows.
QString tooltip_at(QWidget* widget, QPoint at) {
    QToolTip::hideText();
    QHelpEvent event(QEvent::ToolTip, at, widget->mapToGlobal(at));
    QApplication::sendEvent(widget, &event);
    return QToolTip::text();
}

void expect_plain(QWidget& root, const char* where) {
    for (const QLabel* label : root.findChildren<QLabel*>()) {
        if (label->textFormat() == Qt::PlainText) continue;
        EXPECT_FALSE(could_load(label->text())) << where << ": " << label->text().toStdString();
    }
    for (QWidget* widget : root.findChildren<QWidget*>()) {
        if (!widget->isVisible()) continue;
        EXPECT_FALSE(could_load(tooltip_at(widget, widget->rect().center())))
            << where << ": tooltip of " << widget->metaObject()->className();
    }
    for (QAbstractItemView* view : root.findChildren<QAbstractItemView*>()) {
        if (!view->isVisible() || view->model() == nullptr) continue;
        for (int y = 4; y < view->viewport()->height(); y += 24) {
            for (int x = 10; x < view->viewport()->width(); x += 60)
                EXPECT_FALSE(could_load(tooltip_at(view->viewport(), {x, y}))) << where;
        }
    }
}

}  // namespace

TEST_F(LibraryHealthTest, NamesFromOutsideAreShownAsTheyAre) {
    // Whoever reads this as a picture waits at the pipe for ever.
    const auto pipe = folder_ / "pipe";
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    const std::string evil = "<b><img src=\"" + pipe.string() + "\">";
    for (int run : {1, 2, 3}) {
        RunFacts facts = test::got(library().run({run}));
        for (std::string* text : {&facts.event, &facts.session, &facts.name, &facts.driver, &facts.car, &facts.tyre_set,
                                  &facts.weather, &facts.changes, &facts.remarks})
            *text = evil + std::to_string(run);
        facts.setup = test::got(library().add_setup(facts.car, evil, {{evil, evil, evil}}, evil));
        ASSERT_TRUE(library().set_facts({run}, facts));
    }
    ASSERT_TRUE(library().rename_track({1}, evil));
    ASSERT_TRUE(library().add_mark({1}, evil, {100, 200}));
    ASSERT_TRUE(library().put_event({{}, evil + "1", evil, evil, evil, evil}));
    ASSERT_TRUE(library().switch_lap({{2}, 2}, false, evil));
    window_.reset();
    open_window();
    compare_best();
    for (const char* desk : {"collect", "logbook", "compare", "corners", "track", "formulas"}) {
        window_->show_desk(QString::fromLatin1(desk));
        settle();
        expect_plain(*window_, desk);
    }
    window_->show_desk(QStringLiteral("logbook"));
    for (const auto tab :
         {LogbookDesk::laps_tab, LogbookDesk::facts_tab, LogbookDesk::setup_tab, LogbookDesk::tidy_tab}) {
        window_->desk_of<LogbookDesk>().show_tab(tab);
        settle();
        expect_plain(*window_, "a tab of the logbook");
    }
    window_->workspace().tell(Error{ErrorCode::io, QString::fromStdString(evil).toStdString(), evil});
    expect_plain(*window_, "the foot line");
    EXPECT_TRUE(message().contains(QLatin1String("<img"))) << "shown, letter by letter";
    EXPECT_EQ(window_->grab().width(), window_->width()) << "and it can be painted";
}

TEST_F(LibraryHealthTest, ATooltipOfAListShowsItsTextLetterByLetter) {
    RunFacts facts = test::got(library().run({2}));
    facts.name = "<i>run</i><img src=/dev/zero>";
    ASSERT_TRUE(library().set_facts({2}, facts));
    window_->workspace().library_changed();
    settle();
    window_->show_desk(QStringLiteral("logbook"));
    auto* tree = window_->desk_of<LogbookDesk>().findChild<QTreeView*>();
    const QModelIndex index = window_->desk_of<LogbookDesk>().run_list().index_of({2});
    const QString shown = tooltip_at(tree->viewport(), tree->visualRect(index).center());
    EXPECT_TRUE(shown.contains(QLatin1String("&lt;img"))) << shown.toStdString();
}

TEST_F(LibraryHealthTest, ALostCatalogueIsSaidAndItsRecordingsFiledAgain) {
    const auto before = test::got(library().runs()).size();
    window_.reset();
    for (const char* name : {"library.sqlite", "library.sqlite-wal", "library.sqlite-shm"}) fs::remove(folder_ / name);
    open_window();
    settle();
    UnfiledBar& bar = window_->desk_of<LogbookDesk>().unfiled();
    ASSERT_TRUE(bar.isVisibleTo(window_.get()));
    EXPECT_TRUE(bar.text().startsWith(QString::number(before))) << bar.text().toStdString();
    QTest::mouseClick(bar.findChild<QPushButton*>(QStringLiteral("file-again")), Qt::LeftButton);
    settle();
    settle();
    EXPECT_EQ(test::got(library().runs()).size(), before);
    EXPECT_FALSE(bar.isVisibleTo(window_.get()));
    EXPECT_EQ(window_->desk_of<LogbookDesk>().run_list().runs_below({}).size(), before);
}

TEST_F(LibraryHealthTest, ADamagedRecordingIsSaidAndNotCompared) {
    const auto file = own_recording(3);
    std::fstream(file, std::ios::binary | std::ios::in | std::ios::out).seekp(200'000) << std::string(4096, '\0');
    compare_best();
    settle();
    EXPECT_TRUE(message().contains(QLatin1String("damaged"))) << message().toStdString();
    ASSERT_EQ(laps().laps.size(), 1U) << "only the sound one is left";
    EXPECT_EQ(laps().laps[0].lap.ref.run, RunId{2});
    window_->show_desk(QStringLiteral("logbook"));
    window_->desk_of<LogbookDesk>().select_run({3});
    settle();
    const QModelIndex index = window_->desk_of<LogbookDesk>().run_list().index_of({3});
    EXPECT_TRUE(index.data(Qt::ToolTipRole).toString().contains(QLatin1String("damaged")));
}

TEST_F(LibraryHealthTest, ARecordingThatShrinksUnderTheWindowIsSaid) {
    const auto file = own_recording(3);
    compare_best();
    ASSERT_EQ(laps().laps.size(), 2U);
    fs::resize_file(file, 4096);
    window_->grab();  // paints from the file that is no longer there
    window_->workspace().comparison().reload();
    (void)laps().laps;
    settle();
    ASSERT_TRUE(QTest::qWaitFor(
        [this] { return message().contains(QLatin1String("damaged")) || laps().laps.size() == 1; }, 120'000))
        << message().toStdString();
}

TEST_F(LibraryHealthTest, TheCheckSaysThatAllIsWellOrWhatIsNot) {
    QTest::qWait(0);
    check_library_of(window_->workspace(), window_.get());
    settle();
    EXPECT_TRUE(message().startsWith(QLatin1String("All is well"))) << message().toStdString();
    fs::remove(own_recording(2));
    check_library_of(window_->workspace(), window_.get());
    settle();
    auto* dialog = window_->findChild<QDialog*>(QStringLiteral("library-check"));
    ASSERT_NE(dialog, nullptr);
    if (const QByteArray pictures = qgetenv("RENDAK_PICTURES"); !pictures.isEmpty())
        dialog->grab().save(QString::fromLocal8Bit(pictures) + QStringLiteral("/library-check.png"));
    auto* list = dialog->findChild<QListWidget*>();
    ASSERT_GE(list->count(), 1);
    EXPECT_TRUE(list->item(0)->text().contains(QLatin1String("missing"))) << list->item(0)->text().toStdString();
}

TEST_F(LibraryHealthTest, JobsOfASilentLoggerStopAtOnce) {
    const test::RawServer silent([](const auto&, const auto& send) {
        while (send("")) std::this_thread::sleep_for(std::chrono::milliseconds(10));
    });
    window_->desk_of<CollectDesk>().connect_to(QString::fromStdString(silent.url()));
    QTest::qWait(100);
    EXPECT_FALSE(window_->workspace().jobs().idle());
    EXPECT_TRUE(window_->workspace().jobs().stop_within(60'000)) << "far below the logger's own time";
    settle();
}

TEST(Closing, DoesNotWaitForAJobThatHangs) {
    std::atomic<bool> release{false};
    {
        Jobs jobs;
        struct Nothing {};
        jobs.run<Nothing>(
            QStringLiteral("hangs"),
            [&](const JobContext&) -> Result<Nothing> {
                while (!release) std::this_thread::sleep_for(std::chrono::milliseconds(5));
                return Nothing{};
            },
            [](const Result<Nothing>&) {});
        EXPECT_FALSE(jobs.stop_within(50)) << "then the program leaves without it";
        release = true;
        EXPECT_TRUE(jobs.stop_within(60'000));
    }
}

}  // namespace rendak::app
