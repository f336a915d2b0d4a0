// The clocks of an event: a place whose clocks change over the weekend.
#include <QCompleter>
#include <QDateTimeEdit>
#include <QDialog>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>

#include "app/text/shown.h"
#include "tests/app/window_fixture.h"

namespace rendak::app {
namespace {

class EventZoneTest : public WindowTest {
  protected:
    LogbookDesk& desk() { return window_->desk_of<LogbookDesk>(); }
    Library& library() { return window_->workspace().library(); }
    void press(const QString& text) {
        for (auto* button : desk().findChildren<QPushButton*>()) {
            if (button->text() == text) QTest::mouseClick(button, Qt::LeftButton);
        }
        settle();
    }
    void type_zone(const QString& zone) {
        QTimer::singleShot(0, &desk(), [zone] {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            ASSERT_NE(dialog, nullptr);
            auto* line = dialog->findChild<QLineEdit*>(QStringLiteral("event-zone"));
            line->setText(zone);
            line->completer()->setCompletionPrefix(QStringLiteral("berl"));
            EXPECT_EQ(line->completer()->currentCompletion(), QStringLiteral("Europe/Berlin"));
            keep_picture(dialog, QStringLiteral("event-dialog"));
            dialog->accept();
        });
        press(QStringLiteral("Event …"));
    }
};

TEST_F(EventZoneTest, OfAPlaceShowsEachDayByTheClocksOfThatDay) {
    desk().select_run({1});
    desk().show_tab(LogbookDesk::facts_tab);
    settle();
    type_zone(QStringLiteral("Europe/Berlin"));
    EXPECT_EQ(library().run({1})->zone, "Europe/Berlin");
    auto* date = desk().findChild<QDateTimeEdit*>();
    // Saturday in summer time, Sunday after the change: both at ten by the clocks of the place.
    for (const auto& [day, hour] : {std::pair(24, 8), std::pair(25, 9)}) {
        date->setDateTime(QDateTime(QDate(2026, 10, day), QTime(10, 0), Qt::UTC));
        press(QStringLiteral("Set date"));
        const double start_s = *library().run({1})->start_unix_s;
        EXPECT_EQ(date_time(start_s), QStringLiteral("2026-10-%1 0%2:00").arg(day).arg(hour));
        EXPECT_EQ(date_time_with_zone(start_s, library().run({1})->zone),
                  QStringLiteral("2026-10-%1 10:00 +0%2:00").arg(day).arg(10 - hour));
        EXPECT_EQ(date->dateTime().time(), QTime(10, 0));
    }
    keep_picture(window_.get(), QStringLiteral("event-zone-facts"));
    type_zone(QStringLiteral("Nowhere/Town"));
    EXPECT_EQ(library().run({1})->zone, "Europe/Berlin") << "what is no zone changes nothing";
    type_zone(QStringLiteral("+09:30"));
    EXPECT_EQ(library().run({1})->zone, "+09:30");
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(library().run({1})->zone, "Europe/Berlin");
}

}  // namespace
}  // namespace rendak::app
