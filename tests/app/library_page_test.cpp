// The library in hand: its page, backup, another library, best-ever laps, results, zones.
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>
#include <QTreeView>

#include "app/desks/logbook/best_laps_dialog.h"
#include "app/desks/logbook/results_dialog.h"
#include "app/session/preferences.h"
#include "app/shell/library_page.h"
#include "app/text/shown.h"
#include "core/base/text.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"

namespace rendak::app {
namespace {

class LibraryPageTest : public WindowTest {
  protected:
    Library& library() { return window_->workspace().library(); }
    [[nodiscard]] QString message() const { return window_->findChild<QLabel*>(QStringLiteral("message"))->text(); }
    LibraryPage* page() {
        window_->show_library_page();
        settle();
        return window_->findChild<LibraryPage*>();
    }
    static QString path(const std::filesystem::path& place) { return QString::fromStdString(place.string()); }
};

}  // namespace

TEST_F(LibraryPageTest, SaysWhatIsInItAndBacksItUp) {
    LibraryPage* shown = page();
    ASSERT_NE(shown, nullptr);
    bool said = false;
    for (const QLabel* label : shown->findChildren<QLabel*>())
        said |= label->text().contains(QStringLiteral("3 runs in"));
    EXPECT_TRUE(said);
    keep_picture(shown, QStringLiteral("library-page"));
    const test::TempFolder elsewhere;
    shown->back_up_to(path(elsewhere / "backup"));
    settle();
    EXPECT_TRUE(message().contains(QStringLiteral("is complete"))) << message().toStdString();
    auto copy = Library::open(elsewhere / "backup", Library::Open::existing);
    ASSERT_TRUE(copy);
    EXPECT_EQ(test::got((*copy)->runs()).size(), 3U);
    shown->back_up_to(path(folder_ / "inside"));
    settle();
    EXPECT_TRUE(message().contains(QStringLiteral("cannot lie in each other"))) << message().toStdString();
}

TEST_F(LibraryPageTest, AnotherLibraryTakesThePlaceOfThisOne) {
    const test::TempFolder elsewhere;
    LibraryPage* shown = page();
    shown->open_folder(path(elsewhere.path()));
    EXPECT_TRUE(message().contains(QStringLiteral("There is no library"))) << message().toStdString();
    MainWindow* other = window_->use_library(path(elsewhere / "new"));
    ASSERT_NE(other, nullptr);
    EXPECT_FALSE(window_->isVisible()) << "windows of the old one go";
    EXPECT_TRUE(other->isVisible());
    EXPECT_TRUE(test::got(other->workspace().library().runs()).empty());
    EXPECT_EQ(Preferences::of_person().recent_libraries().first(), path(elsewhere / "new"));
    // Back again, from the list of those used before.
    Preferences::of_person().use_library(path(folder_.path()));
    Preferences::of_person().use_library(path(elsewhere / "new"));
    other->show_library_page();
    ASSERT_TRUE(wait_until_idle(*other, 600));
    auto* recent = other->findChild<LibraryPage*>()->findChild<QListWidget*>();
    int at = -1;
    for (int i = 0; i < recent->count(); ++i) {
        if (recent->item(i)->data(Qt::UserRole).toString() == path(folder_.path())) at = i;
    }
    ASSERT_GE(at, 0);
    const auto before = QApplication::topLevelWidgets();
    Q_EMIT recent->itemActivated(recent->item(at));
    MainWindow* back = nullptr;
    for (QWidget* top : QApplication::topLevelWidgets()) {
        auto* window = qobject_cast<MainWindow*>(top);
        if (window != nullptr && !before.contains(top)) back = window;
    }
    ASSERT_NE(back, nullptr);
    EXPECT_EQ(test::got(back->workspace().library().runs()).size(), 3U);
    ASSERT_TRUE(wait_until_idle(*back, 600));
    back->close();
    QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
}

TEST_F(LibraryPageTest, MovesAfterTheCopyWasFoundWhole) {
    const test::TempFolder elsewhere;
    LibraryPage* shown = page();
    QTimer::singleShot(0, [] {});
    QTimer press;
    // The question whether the old files go: keep them.
    QObject::connect(&press, &QTimer::timeout, [] {
        for (QWidget* top : QApplication::topLevelWidgets()) {
            auto* box = qobject_cast<QDialog*>(top);
            if (box == nullptr || !box->isVisible() || box->windowTitle() != QLatin1String("Move the library"))
                continue;
            for (auto* button : box->findChildren<QPushButton*>()) {
                if (button->text() == QLatin1String("Keep them")) button->click();
            }
        }
    });
    press.start(20);
    shown->move_to(path(elsewhere / "moved"));
    const auto moved = [&]() -> MainWindow* {
        for (QWidget* top : QApplication::topLevelWidgets()) {
            auto* window = qobject_cast<MainWindow*>(top);
            if (window != nullptr && window->isVisible() && window != window_.get()) return window;
        }
        return nullptr;
    };
    ASSERT_TRUE(QTest::qWaitFor([&] { return moved() != nullptr; }, 120'000));
    EXPECT_EQ(test::got(moved()->workspace().library().runs()).size(), 3U);
    EXPECT_EQ(path(moved()->workspace().library().folder()), path(elsewhere / "moved"));
    EXPECT_TRUE(std::filesystem::exists(folder_ / "library.sqlite")) << "kept, as was said";
    ASSERT_TRUE(wait_until_idle(*moved(), 600));
    moved()->close();
    QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
}

TEST_F(LibraryPageTest, BestEverLapsCanBePicked) {
    show_best_laps(window_->workspace(), window_.get());
    settle();
    auto* dialog = window_->findChild<QDialog*>(QStringLiteral("best-laps-dialog"));
    ASSERT_NE(dialog, nullptr);
    auto* table = dialog->findChild<QTableWidget*>();
    ASSERT_GE(table->rowCount(), 1);
    double fastest = 1e9;
    for (const RunSummary& summary : test::got(library().summaries())) {
        if (summary.best_s) fastest = std::min(fastest, *summary.best_s);
    }
    EXPECT_EQ(table->item(0, 1)->text(), lap_time(fastest));
    keep_picture(dialog, QStringLiteral("best-laps"));
    Q_EMIT table->cellActivated(0, 1);
    settle();
    ASSERT_EQ(state().laps.size(), 1U);
    auto* driver = dialog->findChildren<QComboBox*>().at(2);
    driver->setCurrentIndex(1);
    for (int row = 0; row < table->rowCount(); ++row) EXPECT_EQ(table->item(row, 3)->text(), driver->currentText());
}

TEST_F(LibraryPageTest, ResultsAreHeldAgainstTheLapsAndKept) {
    std::string text = "No,Lap,Lap time\n";
    int number = 0, complete = 0;
    for (const Lap& lap : test::got(library().laps({2}))) {
        if (!lap.complete()) continue;
        ++complete;
        text += "27," + std::to_string(++number) + "," + rendak::fixed(lap.time_s() + 0.002, 3) + "\n";
    }
    ASSERT_GT(complete, 1);
    text += "27," + std::to_string(number + 1) + ",1:59.000\n";
    const auto file = folder_.write("results.csv", text);
    hold_results_against(window_->workspace(), {2}, path(file), window_.get());
    settle();
    auto* dialog = window_->findChild<QDialog*>(QStringLiteral("results-dialog"));
    ASSERT_NE(dialog, nullptr);
    auto* table = dialog->findChild<QTableWidget*>();
    ASSERT_EQ(table->rowCount(), complete + 1);
    keep_picture(dialog, QStringLiteral("results"));
    EXPECT_EQ(table->item(0, 4)->text(), signed_number(-0.002, 3));
    EXPECT_EQ(table->item(complete, 3)->text(), QStringLiteral("missing"));
    EXPECT_EQ(test::got(library().official_laps({2})).size(), static_cast<std::size_t>(complete + 1));
    dialog->close();
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(test::got(library().official_laps({2})).empty()) << "undone";
    hold_results_against(window_->workspace(), {2}, path(folder_.write("no.csv", "a,b\n1,2\n")), window_.get());
    settle();
    EXPECT_TRUE(message().contains(QStringLiteral("No column of lap times"))) << message().toStdString();
}

TEST_F(LibraryPageTest, TimesAreShownByTheClocksOfTheEvent) {
    const RunRow run = test::got(library().run({2}));
    ASSERT_TRUE(run.start_unix_s);
    EventRow event;
    for (const EventRow& one : test::got(library().events())) {
        if (one.name == run.event) event = one;
    }
    event.zone = "+09:00";
    ASSERT_TRUE(library().put_event(event));
    window_->workspace().library_changed(Change::papers);
    settle();
    const QString wanted = date_time(*run.start_unix_s + 9 * 3600) + QStringLiteral(" +09:00");
    auto* tree = window_->desk_of<LogbookDesk>().findChild<QTreeView*>();
    bool shown = false;
    const std::function<void(const QModelIndex&)> look = [&](const QModelIndex& parent) {
        for (int row = 0; row < tree->model()->rowCount(parent); ++row) {
            for (int column = 0; column < tree->model()->columnCount(parent); ++column) {
                const QModelIndex index = tree->model()->index(row, column, parent);
                shown |= index.data().toString() == wanted;
                if (column == 0) look(index);
            }
        }
    };
    look({});
    EXPECT_TRUE(shown) << wanted.toStdString();
}

}  // namespace rendak::app
