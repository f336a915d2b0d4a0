// The Collect desk as a person uses it, against the stand-in logger.
#include <QCheckBox>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMessageBox>
#include <QPushButton>
#include <QTableView>
#include <QTimer>
#include <filesystem>
#include <fstream>

#include "core/video/film_book.h"
#include "demo/stand_in.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"
#include "tests/support/made_film.h"

namespace rendak::app {
namespace {

class CollectDeskTest : public WindowTest {
  protected:
    void SetUp() override {
        WindowTest::SetUp();
        window_->show_desk(QStringLiteral("collect"));
        settle();
    }
    CollectDesk& desk() { return window_->desk_of<CollectDesk>(); }
    template <class T>
    T* named(const char* name) {
        return desk().findChild<T*>(QString::fromLatin1(name));
    }
    void connect_to(demo::StandIn& logger) {
        ASSERT_TRUE(logger.start(folder_ / "demo-files/card"));
        named<QPushButton>("connect")->parentWidget()->findChild<QComboBox*>()->setEditText(
            QString::fromStdString(logger.url()));
        QTest::mouseClick(named<QPushButton>("connect"), Qt::LeftButton);
        settle();
    }
    QString cell(int row, int column) { return desk().recordings().index(row, column).data().toString(); }
    void keep_picture(const char* name) {
        const QByteArray folder = qgetenv("RENDAK_PICTURES");
        if (!folder.isEmpty())
            window_->grab().save(QString::fromLocal8Bit(folder) + u'/' + QString::fromLatin1(name) +
                                 QStringLiteral(".png"));
    }
};

TEST_F(CollectDeskTest, SaysWhatToDoBeforeAnythingIsConnected) {
    EXPECT_TRUE(desk().state_text().startsWith(QStringLiteral("Not connected")));
    EXPECT_FALSE(named<QPushButton>("download")->isEnabled());
    EXPECT_FALSE(named<QPushButton>("erase")->isEnabled());
    keep_picture("collect-empty");
}

TEST_F(CollectDeskTest, ListsDownloadsAndFilesWhatIsNew) {
    demo::StandIn logger;
    connect_to(logger);
    ASSERT_EQ(desk().recordings().rowCount(), 6);
    EXPECT_EQ(cell(0, RecordingTable::date), QStringLiteral("2004-01-01 00:32"));
    EXPECT_EQ(cell(1, RecordingTable::in_library), QStringLiteral("Run 2, 8 laps, verified"));
    EXPECT_EQ(cell(3, RecordingTable::in_library), QStringLiteral("new"));
    EXPECT_EQ(cell(3, RecordingTable::laps), QStringLiteral("8")) << "out and in lap counted";
    EXPECT_TRUE(cell(4, RecordingTable::length).contains(QStringLiteral("cut off")));
    EXPECT_EQ(desk().recordings().ticked().size(), 3U) << "what is new is ticked";
    keep_picture("collect-connected");
    desk().recordings().tick(5, false);
    QTest::keyClicks(named<QLineEdit>("file-driver"), QStringLiteral("Brandvold"));
    QTest::keyClicks(named<QLineEdit>("file-event"), QStringLiteral("Skerrow Point test weekend"));
    EXPECT_EQ(named<QPushButton>("download")->text(), QStringLiteral("Download 2 recordings"));
    QTest::mouseClick(named<QPushButton>("download"), Qt::LeftButton);
    settle();
    const auto runs = window_->workspace().library().runs().value();
    ASSERT_EQ(runs.size(), 5U);
    EXPECT_EQ(runs[3].driver, "Brandvold");
    EXPECT_EQ(runs[3].event, "Skerrow Point test weekend");
    EXPECT_TRUE(cell(3, RecordingTable::in_library).endsWith(QStringLiteral(", verified")));
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("2 recordings downloaded, verified and filed")));
    EXPECT_TRUE(desk().check_text().contains(QStringLiteral("1 recording not yet in the library")));
    EXPECT_EQ(window_->workspace().library().setting("collect_driver").value(), "Brandvold")
        << "remembered for the next time";
    keep_picture("collect-downloaded");
}

TEST_F(CollectDeskTest, CancelKeepsWhatHasArrived) {
    demo::StandIn logger({.bytes_per_s = 2e7});
    connect_to(logger);
    QTimer::singleShot(400, [this] {
        keep_picture("collect-downloading");
        for (auto* button : desk().findChildren<QPushButton*>()) {
            if (button->text() == QLatin1String("Cancel") && button->isVisible())
                QTest::mouseClick(button, Qt::LeftButton);
        }
    });
    QTest::mouseClick(named<QPushButton>("download"), Qt::LeftButton);
    settle();
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("Cancelled")))
        << window_->status().message().toStdString();
    EXPECT_LT(window_->workspace().library().runs().value().size(), 6U);
    EXPECT_TRUE(named<QPushButton>("download")->isVisible());
}

TEST_F(CollectDeskTest, TheClockIsSetAndOldDatesAreMoved) {
    demo::StandIn logger({.clock_offset_s = -3600, .nearly_full = true});
    connect_to(logger);
    EXPECT_TRUE(named<QLabel>("warnings")->text().contains(QStringLiteral("clock is wrong")));
    EXPECT_TRUE(named<QLabel>("warnings")->text().contains(QStringLiteral("nearly full")));
    EXPECT_TRUE(named<QLabel>("clocks")->text().contains(QStringLiteral("−3600")))
        << named<QLabel>("clocks")->text().toStdString();
    EXPECT_TRUE(desk().check_text().contains(QStringLiteral("○ Set the logger's clock")));
    keep_picture("collect-warnings");
    QTest::mouseClick(named<QPushButton>("set-clock"), Qt::LeftButton);
    settle();
    EXPECT_TRUE(desk().check_text().contains(QStringLiteral("✓ The logger's clock is right")));
    named<QCheckBox>("shift-dates")->setChecked(true);
    EXPECT_EQ(cell(3, RecordingTable::date), QStringLiteral("2026-06-13 12:00"))
        << "an hour later than the logger says";
    desk().recordings().tick_all(false);
    desk().recordings().tick(3, true);
    QTest::mouseClick(named<QPushButton>("download"), Qt::LeftButton);
    settle();
    EXPECT_NEAR(window_->workspace().library().runs().value().back().clock_shift_s, 3600, 6);
}

TEST_F(CollectDeskTest, ErasingSaysWhatWillGoAndChecksAfterwards) {
    demo::StandIn logger;
    connect_to(logger);
    EXPECT_FALSE(named<QPushButton>("erase")->isEnabled()) << "what is in the library is not ticked by itself";
    desk().recordings().tick_all(true);
    EXPECT_TRUE(named<QPushButton>("erase")->isEnabled());
    QString asked, listed;
    QTimer::singleShot(200, [&] {
        auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
        ASSERT_NE(box, nullptr);
        asked = box->text();
        listed = box->informativeText();
        box->button(QMessageBox::Cancel)->click();
    });
    QTest::mouseClick(named<QPushButton>("erase"), Qt::LeftButton);
    settle();
    EXPECT_TRUE(asked.contains(QStringLiteral("3 recordings will be erased")));
    EXPECT_TRUE(listed.contains(QStringLiteral("REC0002.MF4 – Run 2, 8 laps")));
    EXPECT_EQ(desk().recordings().rowCount(), 6) << "Cancel erases nothing";
    // Only what is ticked goes, and of that only what is verified in the library.
    desk().recordings().tick_all(false);
    for (int row = 0; row < desk().recordings().rowCount(); ++row)
        desk().recordings().tick(row, cell(row, RecordingTable::name).contains(QStringLiteral("REC0002")));
    desk().erase(true);
    settle();
    EXPECT_EQ(desk().recordings().rowCount(), 5);
    desk().recordings().tick_all(true);
    desk().erase(true);
    settle();
    EXPECT_EQ(desk().recordings().rowCount(), 3);
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("no longer lists them")));
    EXPECT_TRUE(std::filesystem::exists(folder_ / "demo-files/card/REC0002.MF4"))
        << "the stand-in erases from its own copy";
}

TEST_F(CollectDeskTest, AnUnreachableLoggerIsSaid) {
    desk().connect_to(QStringLiteral("http://127.0.0.1:9"));
    settle();
    EXPECT_TRUE(desk().state_text().contains(QStringLiteral("does not answer")));
    EXPECT_FALSE(named<QPushButton>("download")->isEnabled());
    desk().connect_to(QStringLiteral("/no/such/card"));
    settle();
    EXPECT_TRUE(desk().state_text().contains(QStringLiteral("Is the card in the reader?")));
}

TEST_F(CollectDeskTest, ACardFolderWorksTheSame) {
    desk().connect_to(QString::fromStdString((folder_ / "demo-files/card").string()));
    settle();
    EXPECT_EQ(desk().recordings().rowCount(), 6);
    EXPECT_FALSE(named<QPushButton>("set-clock")->isVisible()) << "a card has no clock";
}

TEST_F(CollectDeskTest, OneButtonStartsAndStopsThePracticeLogger) {
    QTest::mouseClick(named<QPushButton>("practice"), Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([this] { return desk().recordings().rowCount() == 6; }, 15000))
        << window_->status().message().toStdString();
    settle();
    EXPECT_EQ(named<QPushButton>("practice")->text(), QStringLiteral("Stop the practice logger"));
    EXPECT_TRUE(named<QLabel>("warnings")->text().contains(QStringLiteral("clock is wrong")))
        << "something to practise";
    QTest::mouseClick(named<QPushButton>("practice"), Qt::LeftButton);
    EXPECT_TRUE(QTest::qWaitFor(
        [this] { return named<QPushButton>("practice")->text().startsWith(QStringLiteral("Start")); }, 5000));
}

TEST_F(CollectDeskTest, FilmsOnACardAreOfferedAndComeIn) {
    const auto card = folder_ / "their card";
    std::filesystem::create_directories(card / "camera");
    std::filesystem::copy_file(folder_ / "demo-files/card/REC0001.MF4", card / "REC0001.MF4");
    test::write_film(
        {.frames = 40, .wish = {.file = (card / "camera/clip1.mp4").string(), .width = 160, .height = 90}});
    test::write_film(
        {.frames = 30, .wish = {.file = (card / "camera/clip2.mp4").string(), .width = 128, .height = 72}});
    std::ofstream(card / "camera/broken.mp4") << "no film at all";
    auto* line = named<QWidget>("films-on-card");
    EXPECT_FALSE(line->isVisible());
    desk().connect_to(QString::fromStdString(card.string()));
    settle();
    ASSERT_TRUE(line->isVisible());
    const QString text = named<QLabel>("films-text")->text();
    EXPECT_TRUE(text.startsWith(QStringLiteral("Also on the card: 2 films that the library does not have, ")))
        << text.toStdString();
    keep_picture("collect-films");
    // Asked which way it looks and whether to copy; escape does nothing.
    const auto in_dialogs = [&](bool yes) {
        QTimer timer;
        QObject::connect(&timer, &QTimer::timeout, [&] {
            auto* dialog = QApplication::activeModalWidget();
            if (dialog == nullptr) return;
            auto* ask = qobject_cast<QMessageBox*>(dialog);
            if (!yes)
                QTest::keyClick(dialog, Qt::Key_Escape);
            else if (ask != nullptr) {
                for (QAbstractButton* it : ask->buttons()) {
                    if (it->text() == QStringLiteral("Copy")) QTest::mouseClick(it, Qt::LeftButton);
                }
            } else
                QTest::keyClick(dialog, Qt::Key_Return);
        });
        timer.start(20);
        QTest::mouseClick(named<QPushButton>("films-add"), Qt::LeftButton);
        timer.stop();
        settle();
    };
    in_dialogs(false);
    EXPECT_EQ(test::got(kept_films(window_->workspace().library())).size(), 0U);
    in_dialogs(true);
    const auto films = test::got(kept_films(window_->workspace().library()));
    ASSERT_EQ(films.size(), 2U);
    EXPECT_EQ(films[0].camera, "forward");
    EXPECT_TRUE(films[0].files[0].kept) << "the card will be used again";
    EXPECT_TRUE(std::filesystem::exists(folder_ / "videos/clip1.mp4"));
    EXPECT_FALSE(line->isVisible()) << "they are known now";
    // A card without films, and a logger, have no such line.
    desk().connect_to(QString::fromStdString((folder_ / "demo-files/card").string()));
    settle();
    EXPECT_FALSE(line->isVisible());
}

}  // namespace
}  // namespace rendak::app
