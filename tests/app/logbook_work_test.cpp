// Facts, setup sheets, tidying, bundles, bin and the watched folder, as a person uses them.
#include <QComboBox>
#include <QDateTimeEdit>
#include <QDialog>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMessageBox>
#include <QPushButton>
#include <QTimer>
#include <QTreeView>
#include <QTreeWidget>

#include "app/desks/logbook/import_facts_dialog.h"
#include "app/desks/logbook/import_preview_dialog.h"
#include "app/desks/logbook/library_dialogs.h"
#include "app/text/shown.h"
#include "core/base/text.h"
#include "core/bundle/bundle.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"
#include "tests/support/h5_maker.h"

namespace rendak::app {
namespace {

class LogbookWorkTest : public WindowTest {
  protected:
    LogbookDesk& desk() { return window_->desk_of<LogbookDesk>(); }
    Library& library() { return window_->workspace().library(); }
    QLineEdit& fact(const char* label) {
        return *desk().findChild<QLineEdit*>(QStringLiteral("fact-") + QString::fromLatin1(label));
    }
    void type(QLineEdit& edit, const QString& text) {
        edit.selectAll();
        QTest::keyClicks(&edit, text);
        QTest::keyClick(&edit, Qt::Key_Return);
        settle();
    }
    template <class T>
    T* named(const QString& name) {
        return desk().findChild<T*>(name);
    }
    void show(RunId run, LogbookDesk::Tab tab) {
        desk().select_run(run);
        desk().show_tab(tab);
        settle();
    }
    /// Does something with the next modal dialog.
    template <class Act>
    void in_dialog(Act act) {
        QTimer::singleShot(150, [act] {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            ASSERT_NE(dialog, nullptr);
            keep_picture(dialog, dialog->objectName());
            act(*dialog);
        });
    }
};

TEST_F(LogbookWorkTest, FactsAreEditedAndUndone) {
    show({2}, LogbookDesk::facts_tab);
    EXPECT_EQ(fact("Driver").text(), QStringLiteral("Brandvold"));
    EXPECT_EQ(fact("Tyre set").text(), QStringLiteral("C1"));
    type(fact("Driver"), QStringLiteral("Osei"));
    type(fact("Official time"), QStringLiteral("1:46,1"));
    type(fact("Fuel at start"), QStringLiteral("33.5"));
    EXPECT_EQ(library().run({2})->driver, "Osei");
    EXPECT_NEAR(*library().run({2})->official_time_s, 106.1, 1e-9);
    EXPECT_NEAR(*library().run({2})->fuel_l, 33.5, 1e-9);
    keep_picture(window_.get(), QStringLiteral("logbook-facts"));
    type(fact("Fuel at start"), QStringLiteral("full"));
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("cannot be understood")));
    EXPECT_NEAR(*library().run({2})->fuel_l, 33.5, 1e-9);
    for (int i = 0; i < 3; ++i) key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(library().run({2})->driver, "Brandvold");
    EXPECT_FALSE(library().run({2})->official_time_s);
    EXPECT_EQ(fact("Driver").text(), QStringLiteral("Brandvold"));
}

TEST_F(LogbookWorkTest, SeveralRunsAreEditedAtOnce) {
    auto* tree = desk().findChild<QTreeView*>();
    tree->selectAll();
    settle();
    desk().show_tab(LogbookDesk::facts_tab);
    EXPECT_EQ(desk().selected_runs().size(), 3U) << "an event and a session stand for their runs, each once";
    EXPECT_TRUE(fact("Driver").text().isEmpty());
    EXPECT_TRUE(fact("Driver").placeholderText().startsWith(QStringLiteral("several")));
    type(fact("Weather"), QStringLiteral("drizzle"));
    for (const RunRow& run : test::got(library().runs())) EXPECT_EQ(run.weather, "drizzle");
    EXPECT_EQ(library().run({3})->driver, "Osei") << "fields that differ stay as they are";
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(library().run({3})->weather, "dry, 17 °C");
}

TEST_F(LogbookWorkTest, DatesAreCorrectedAndGivenWhereThereIsNone) {
    show({1}, LogbookDesk::facts_tab);
    auto* date = desk().findChild<QDateTimeEdit*>();
    QPushButton* set = nullptr;
    for (auto* button : desk().findChildren<QPushButton*>()) {
        if (button->text() == QLatin1String("Set date")) set = button;
    }
    ASSERT_NE(set, nullptr);
    date->setDateTime(QDateTime(QDate(2026, 6, 13), QTime(7, 5), Qt::UTC));
    QTest::mouseClick(set, Qt::LeftButton);
    settle();
    EXPECT_EQ(date_time(*library().run({1})->start_unix_s), QStringLiteral("2026-06-13 07:05"));
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(date_time(*library().run({1})->start_unix_s), QStringLiteral("2004-01-01 00:32"));
    desk().import_files({QString::fromStdString(folder_.write("a.csv", test::oval_table(2, 10).text).string())});
    settle();
    show({4}, LogbookDesk::facts_tab);
    ASSERT_FALSE(library().run({4})->start_unix_s);
    EXPECT_EQ(set->text(), QStringLiteral("Give it this date"));
    date->setDateTime(QDateTime(QDate(2026, 6, 14), QTime(9, 30), Qt::UTC));
    QTest::mouseClick(set, Qt::LeftButton);
    settle();
    EXPECT_EQ(date_time(*library().run({4})->start_unix_s), QStringLiteral("2026-06-14 09:30"));
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(library().run({4})->start_unix_s);
}

TEST_F(LogbookWorkTest, SetupSheetsBecomeNewVersionsAndShowDifferences) {
    show({2}, LogbookDesk::setup_tab);
    auto* sheets = named<QComboBox>(QStringLiteral("setup-of-run"));
    EXPECT_EQ(sheets->currentText().left(6), QStringLiteral("Base 1"));
    auto* table = desk().findChild<SheetTable*>();
    int wing = -1;
    for (int row = 0; row < table->rowCount(); ++row) {
        if (table->item(row, 0) != nullptr && table->item(row, 0)->text() == QLatin1String("Rear wing")) wing = row;
    }
    ASSERT_GE(wing, 0);
    table->item(wing, 1)->setText(QStringLiteral("7"));
    QTest::mouseClick(named<QPushButton>(QStringLiteral("save-setup")), Qt::LeftButton);
    settle();
    EXPECT_EQ(library().run({2})->setup_name, "Base 3");
    EXPECT_EQ(library().setup(library().run({3})->setup)->version, 1) << "the other run keeps its version";
    auto* against = named<QComboBox>(QStringLiteral("setup-against"));
    against->setCurrentIndex(against->findText(QStringLiteral("Run 3 (Base 1)")));
    Q_EMIT against->activated(against->currentIndex());
    settle();
    EXPECT_EQ(named<QLabel>(QStringLiteral("setup-difference"))->text(),
              QStringLiteral("1 difference to Run 3: Rear wing 9 to 7 °."));
    keep_picture(window_.get(), QStringLiteral("logbook-setup"));
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(library().run({2})->setup_name, "Base 1");
}

TEST_F(LogbookWorkTest, ChangesAreFilledFromTheSheets) {
    RunFacts facts = *library().run({3});
    for (const auto& sheet : test::got(library().setups())) {
        if (sheet.title() == "Base 2") facts.setup = sheet.id;
    }
    ASSERT_TRUE(library().set_facts({3}, facts));
    window_->workspace().library_changed();
    show({3}, LogbookDesk::facts_tab);
    QTest::mouseClick(named<QPushButton>(QStringLiteral("fill-changes")), Qt::LeftButton);
    settle();
    EXPECT_EQ(library().run({3})->changes,
              "Packers front 0 to 6 mm; Ride height front 21 to 27 mm; Rear wing 9 to 5 °; Brake ducts closed to open");
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(library().run({3})->changes, "");
}

TEST_F(LogbookWorkTest, TidyShowsWhatIsWrongAndCuresIt) {
    show({1}, LogbookDesk::tidy_tab);
    EXPECT_GE(desk().tidy().findings().size(), 4U);
    keep_picture(window_.get(), QStringLiteral("logbook-tidy"));
    auto* cure = named<QPushButton>(QStringLiteral("cure-date"));
    ASSERT_NE(cure, nullptr);
    QTest::mouseClick(cure, Qt::LeftButton);
    settle();
    EXPECT_GT(*library().run({1})->start_unix_s, 1.78e9);
    EXPECT_EQ(named<QPushButton>(QStringLiteral("cure-date")), nullptr) << "it is cured";
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_LT(*library().run({1})->start_unix_s, 1.1e9);
    auto* accept = named<QPushButton>(QStringLiteral("accept-start-line"));
    const QString before = named<QLabel>(QStringLiteral("tidy-title"))->text();
    QTest::mouseClick(accept, Qt::LeftButton);
    settle();
    EXPECT_EQ(library().accepted_findings({1}).value(), std::vector<std::string>{"start-line"});
    EXPECT_NE(named<QLabel>(QStringLiteral("tidy-title"))->text(), before);
}

TEST_F(LogbookWorkTest, ImportGoesStraightToTidyAndJoinsThePocketLogger) {
    desk().import_files({QString::fromStdString((folder_ / "demo-files/saturday-run-2-pocket.csv").string())});
    settle();
    auto* join = named<QPushButton>(QStringLiteral("cure-join:2"));
    ASSERT_NE(join, nullptr);
    QTest::mouseClick(join, Qt::LeftButton);
    settle();
    EXPECT_EQ(library().runs().value().size(), 3U);
    EXPECT_EQ(library().joined_runs({2}).value().size(), 1U);
}

TEST_F(LogbookWorkTest, TheBinTakesGivesBackAndIsEmptied) {
    window_->workspace().pick_best({3});
    desk().select_run({3});
    desk().bin_selected();
    settle();
    EXPECT_EQ(library().runs().value().size(), 2U);
    EXPECT_TRUE(state().laps.empty()) << "no ghost in the tray";
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(library().runs().value().size(), 3U);
    settle();
    desk().select_run({3});
    desk().bin_selected();
    in_dialog([](QDialog& dialog) {
        EXPECT_EQ(dialog.findChild<QListWidget*>()->count(), 1);
        dialog.findChild<QPushButton*>(QStringLiteral("put-back"))->click();
        EXPECT_EQ(dialog.findChild<QListWidget*>()->count(), 0);
        dialog.accept();
    });
    show_bin(window_->workspace(), window_.get());
    EXPECT_EQ(library().runs().value().size(), 3U);
    settle();
    desk().select_run({3});
    desk().bin_selected();
    const auto file = folder_ / library().run({3})->recording_file;
    in_dialog([](QDialog& dialog) {
        QTimer::singleShot(150, [] {
            auto* ask = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
            ASSERT_NE(ask, nullptr);
            EXPECT_TRUE(ask->text().contains(QStringLiteral("cannot be undone")));
            for (auto* button : ask->buttons()) {
                if (ask->buttonRole(button) == QMessageBox::DestructiveRole) button->click();
            }
        });
        dialog.findChild<QPushButton*>(QStringLiteral("empty-bin"))->click();
        dialog.accept();
    });
    show_bin(window_->workspace(), window_.get());
    EXPECT_FALSE(library().run({3}));
    EXPECT_FALSE(std::filesystem::exists(file));
}

TEST_F(LogbookWorkTest, ABundleShowsClashesBeforeItComesIn) {
    const auto file = folder_ / "b.zip";
    ASSERT_TRUE(write_bundle(library(), {.runs = {{2}}}, file));
    RunFacts facts = *library().run({2});
    facts.driver = "Somebody else";
    ASSERT_TRUE(library().set_facts({2}, facts));
    in_dialog([](QDialog& dialog) {
        auto* list = dialog.findChild<QTreeWidget*>();
        int clashes = 0;
        for (int i = 0; i < list->topLevelItemCount(); ++i) {
            if (list->topLevelItem(i)->text(1) != QLatin1String("clashes")) continue;
            ++clashes;
            EXPECT_EQ(list->topLevelItem(i)->checkState(0), Qt::Unchecked);
            EXPECT_TRUE(list->topLevelItem(i)->text(2).contains(QStringLiteral("driver \"Somebody else\" here")));
            list->topLevelItem(i)->setCheckState(0, Qt::Checked);
        }
        EXPECT_EQ(clashes, 1);
        dialog.accept();
    });
    desk().import_files({QString::fromStdString(file.string())});  // as one dropped on the program is
    settle();
    EXPECT_EQ(library().run({2})->driver, "Brandvold");
}

TEST_F(LogbookWorkTest, CarSheetsAndChannelNamesOpenAndSave) {
    in_dialog([](QDialog& dialog) {
        auto* table = dialog.findChild<SheetTable*>();
        ASSERT_GT(table->rowCount(), 10);
        EXPECT_EQ(table->item(0, 0)->text(), QStringLiteral("mass"));
        table->item(0, 1)->setText(QStringLiteral("770"));
        for (auto* button : dialog.findChildren<QPushButton*>()) {
            if (button->text().contains(QLatin1String("Save"))) button->click();
        }
        dialog.reject();
    });
    edit_car_sheets(window_->workspace(), window_.get());
    EXPECT_EQ(library().car_sheets().value()[0].values[0].value, "770");
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(library().car_sheets().value()[0].values[0].value, "775");
    in_dialog([](QDialog& dialog) {
        QTest::keyClicks(dialog.findChild<QLineEdit*>(), QStringLiteral("P_Brk VA"));
        auto* quantity = dialog.findChild<QComboBox*>();
        quantity->setCurrentIndex(quantity->findData(QStringLiteral("brake_front")));
        for (auto* button : dialog.findChildren<QPushButton*>()) {
            if (button->text() == QLatin1String("Add")) button->click();
        }
        dialog.reject();
    });
    edit_channel_names(window_->workspace(), window_.get());
    EXPECT_EQ(library().aliases().value().at("pbrkva"), "brake_front");
}

TEST_F(LogbookWorkTest, ALookBeforeTheImportIsRememberedForThatShape) {
    const auto file = folder_.write("odd.csv", "time,Foo,Bar\n0,1,5\n0.1,2,6\n0.2,3,7\n0.3,4,8\n");
    desk().import_with_a_look(QString::fromStdString(file.string()));
    auto* dialog = desk().findChild<ImportPreviewDialog*>();
    ASSERT_NE(dialog, nullptr);
    auto* table = dialog->findChild<QTableWidget*>();
    ASSERT_EQ(table->rowCount(), 3);
    EXPECT_TRUE(table->item(1, 4)->text().startsWith(QStringLiteral("1   2   3")));
    auto* choice = static_cast<QComboBox*>(table->cellWidget(1, 2));
    choice->setCurrentIndex(choice->findData(QStringLiteral("brake_front")));
    table->item(1, 3)->setText(QStringLiteral("bar"));
    table->item(2, 0)->setCheckState(Qt::Unchecked);
    keep_picture(dialog, QStringLiteral("import-preview"));
    dialog->accept();
    settle();
    const auto recording = library().open_run({4});
    ASSERT_TRUE(recording);
    EXPECT_EQ((*recording)->channels.size(), 1U);
    EXPECT_NEAR((*recording)->find("brake_front")->at(1), 2e5, 1);
    const auto next = folder_.write("next.csv", "time,Foo,Bar\n0,7,5\n0.1,8,6\n0.2,9,7\n0.3,4,8\n");
    desk().import_files({QString::fromStdString(next.string())});
    settle();
    EXPECT_NEAR((*library().open_run({5}))->find("brake_front")->at(0), 7e5, 1) << "read the same way, unasked";
}

TEST_F(LogbookWorkTest, AnotherProgramsHdf5IsAskedWhoseSpeedItHolds) {
    const auto file = folder_.path() / "another.h5";
    {
        std::vector<double> times, speeds, revs;
        for (int i = 0; i < 200; ++i) {
            times.push_back(i * 0.1);
            speeds.push_back(25 + 8 * std::sin(i * 0.05));
            revs.push_back(5000 + 100 * (i % 20));
        }
        test::H5Maker made(file);
        made.group("/ecu1").numbers("/time", times, "s").numbers("/ecu1/Speed", speeds, "m/s");
        made.numbers("/ecu1/RPM", revs, "rpm");
    }
    desk().import_files({QString::fromStdString(file.string())});
    settle();
    auto* dialog = desk().findChild<ImportPreviewDialog*>();
    ASSERT_NE(dialog, nullptr);
    const auto answers = dialog->findChildren<QComboBox*>(QStringLiteral("answer"));
    ASSERT_EQ(answers.size(), 1);
    answers[0]->setCurrentIndex(1);
    Q_EMIT answers[0]->activated(1);
    keep_picture(dialog, QStringLiteral("import-hdf5"));
    dialog->accept();
    settle();
    const auto recording = library().open_run(library().runs().value().back().id);
    ASSERT_TRUE(recording);
    ASSERT_NE((*recording)->find("speed"), nullptr);
    EXPECT_NEAR((*recording)->find("speed")->at(0), 25, 1e-4);
    EXPECT_NE((*recording)->find("engine_speed"), nullptr);
}

TEST_F(LogbookWorkTest, WhatOnlyItsOwnerKnowsIsAskedBeforeAnythingIsImported) {
    std::string text = "time,Speed,Brake\n";
    for (int i = 0; i < 60; ++i)
        text += rendak::fixed(i * 0.1, 1) + "," + rendak::fixed(90 + 30 * std::sin(i * 0.2), 2) + "," +
                rendak::fixed(i % 7 * 9.0, 1) + "\n";
    const auto file = folder_.write("open.csv", text);
    const auto before = library().runs().value().size();
    desk().import_files({QString::fromStdString(file.string())});
    settle();
    EXPECT_EQ(library().runs().value().size(), before) << "nothing before the answers";
    auto* dialog = desk().findChild<ImportPreviewDialog*>();
    ASSERT_NE(dialog, nullptr);
    const auto answers = dialog->findChildren<QComboBox*>(QStringLiteral("answer"));
    ASSERT_EQ(answers.size(), 2);
    QPushButton* import = nullptr;
    for (auto* button : dialog->findChildren<QPushButton*>()) {
        if (button->text() == QLatin1String("Import")) import = button;
    }
    ASSERT_NE(import, nullptr);
    EXPECT_FALSE(import->isEnabled());
    const auto answer = [](QComboBox* choice, const char* words) {
        choice->setCurrentIndex(choice->findText(QLatin1String(words)));
        Q_EMIT choice->activated(choice->currentIndex());
    };
    answer(answers[0], "mph");
    EXPECT_FALSE(import->isEnabled()) << "one is open still";
    answer(answers[1], "bar");
    EXPECT_TRUE(import->isEnabled());
    keep_picture(dialog, QStringLiteral("import-questions"));
    QTest::mouseClick(import, Qt::LeftButton);
    settle();
    ASSERT_EQ(library().runs().value().size(), before + 1);
    const auto recording = library().open_run(library().runs().value().back().id);
    ASSERT_TRUE(recording);
    EXPECT_NEAR((*recording)->find("speed")->at(0), 90 * 0.44704, 1e-3);
    EXPECT_NEAR((*recording)->find("brake_front")->at(1), 9e5, 1);
}

TEST_F(LogbookWorkTest, FactsOfAPlainImportCanBeGivenAndSkipped) {
    ImportFactsDialog dialog(window_->workspace(), 2);
    dialog.show();
    EXPECT_EQ(dialog.facts(), RunFacts{}) << "nothing is filled in that somebody else meant";
    for (auto* edit : dialog.findChildren<QLineEdit*>()) {
        if (edit->accessibleName() == QLatin1String("Driver")) QTest::keyClicks(edit, QStringLiteral("Osei"));
        if (edit->accessibleName() == QLatin1String("Air temperature")) QTest::keyClicks(edit, QStringLiteral("21,5"));
    }
    keep_picture(&dialog, QStringLiteral("import-facts"));
    const RunFacts facts = dialog.facts();
    EXPECT_EQ(facts.driver, "Osei");
    EXPECT_EQ(facts.air_c, 21.5);
    const auto before = library().runs().value().size();
    desk().import_files({QString::fromStdString(folder_.write("plain.csv", test::oval_table(2, 10).text).string())}, {},
                        {}, facts);
    settle();
    ASSERT_EQ(library().runs().value().size(), before + 1);
    EXPECT_EQ(library().runs().value().back().driver, "Osei");
    EXPECT_EQ(library().runs().value().back().air_c, 21.5);
}

TEST_F(LogbookWorkTest, AWatchedFolderImportsByItself) {
    std::filesystem::create_directories(folder_ / "watched");
    desk().watched().set_folder(QString::fromStdString((folder_ / "watched").string()));
    folder_.write("watched/new.csv", test::oval_table(2, 10).text);
    folder_.write("watched/readme.pdf", "not a recording");
    ASSERT_TRUE(QTest::qWaitFor([this] { return library().runs().value().size() == 4; }, 10000));
    settle();
    folder_.write("watched/second.csv", test::oval_table(3, 10).text);
    ASSERT_TRUE(QTest::qWaitFor([this] { return library().runs().value().size() == 5; }, 10000));
    settle();
    window_.reset();
    open_window();
    ASSERT_TRUE(QTest::qWaitFor([this] { return desk().watched().looks() > 2; }, 60000));
    settle();
    EXPECT_EQ(library().runs().value().size(), 5U) << "what was seen is remembered";
    EXPECT_FALSE(desk().watched().folder().isEmpty());
}

TEST_F(LogbookWorkTest, AWatchedFileThatFailedIsNotForgotten) {
    std::filesystem::create_directories(folder_ / "watched");
    const auto seen = [this] { return QString::fromStdString(library().setting("watched_seen").value()); };
    desk().watched().set_folder(QString::fromStdString((folder_ / "watched").string()));
    folder_.write("watched/half.csv", "this is no table");
    ASSERT_TRUE(QTest::qWaitFor([this] { return !window_->status().message().isEmpty(); }, 60000));
    settle();
    EXPECT_EQ(library().runs().value().size(), 3U);
    EXPECT_FALSE(seen().contains(QStringLiteral("half.csv"))) << "it did not come in";
    // The program starts again: it is offered again, and comes in once it is whole.
    window_.reset();
    folder_.write("watched/half.csv", test::oval_table(2, 10).text);
    open_window();
    ASSERT_TRUE(QTest::qWaitFor([this] { return library().runs().value().size() == 4; }, 60000));
    settle();
    EXPECT_TRUE(seen().contains(QStringLiteral("half.csv")));
    // What is gone is not remembered.
    std::filesystem::remove(folder_ / "watched/half.csv");
    folder_.write("watched/next.csv", test::oval_table(3, 10).text);
    ASSERT_TRUE(QTest::qWaitFor([this] { return library().runs().value().size() == 5; }, 60000));
    settle();
    EXPECT_FALSE(seen().contains(QStringLiteral("half.csv")));
    EXPECT_TRUE(seen().contains(QStringLiteral("next.csv")));
}

TEST_F(LogbookWorkTest, ColumnsAreKeptByNameWithThePerson) {
    auto* list = desk().findChild<QTreeView*>();
    EXPECT_TRUE(list->isColumnHidden(RunTree::weather));
    const QString kept = desk().state();
    EXPECT_TRUE(kept.contains(QStringLiteral("best"))) << kept.toStdString();
    // As another version wrote it, with columns in another order and one that this version does not know.
    desk().restore(QStringLiteral("plain;name,weather,downforce,driver"));
    EXPECT_FALSE(list->isColumnHidden(RunTree::weather));
    EXPECT_FALSE(list->isColumnHidden(RunTree::driver));
    EXPECT_TRUE(list->isColumnHidden(RunTree::best));
    EXPECT_FALSE(desk().run_list().grouped());
    desk().restore(kept);
    EXPECT_TRUE(list->isColumnHidden(RunTree::weather));
    EXPECT_TRUE(desk().run_list().grouped());
}

TEST_F(LogbookWorkTest, FiltersByColumnAndShowsAPlainList) {
    auto* filter = named<QLineEdit>(QStringLiteral("filter"));
    QTest::keyClicks(filter, QStringLiteral("driver:osei"));
    EXPECT_EQ(desk().run_list().runs_below({}), (std::vector<RunId>{{3}}));
    filter->clear();
    QTest::keyClicks(filter, QStringLiteral("session:osei"));
    EXPECT_TRUE(desk().run_list().runs_below({}).empty());
    filter->clear();
    desk().run_list().set_grouped(false);
    EXPECT_EQ(desk().run_list().rowCount(), 3);
    RunSummary ninth, tenth;
    ninth.run.name = "Run 9";
    tenth.run.name = "Run 10";
    RunTree natural;
    natural.set_grouped(false);
    natural.sort(RunTree::name, Qt::AscendingOrder);
    natural.show({tenth, ninth});
    EXPECT_EQ(natural.index(0, 0).data().toString(), QStringLiteral("Run 9"));
    desk().run_list().sort(RunTree::best, Qt::AscendingOrder);
    EXPECT_EQ(RunTree::run_of(desk().run_list().index(0, 0)), (RunId{2}));
}

TEST_F(LogbookWorkTest, HabitsBelongToDriverCarAndTyres) {
    show({2}, LogbookDesk::facts_tab);
    auto* habit = named<QLineEdit>(QStringLiteral("habit"));
    type(*habit, QStringLiteral("new tyres push for two laps: rear bar one softer"));
    desk().select_run({3});
    EXPECT_TRUE(habit->text().isEmpty()) << "another driver";
    desk().select_run({1});
    EXPECT_EQ(habit->text(), QStringLiteral("new tyres push for two laps: rear bar one softer"));
    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(habit->text().isEmpty());
}

TEST_F(LogbookWorkTest, TheRunSheetIsATableOfEverything) {
    const QStringList lines = desk().run_list().run_sheet().split(u'\n', Qt::SkipEmptyParts);
    ASSERT_EQ(lines.size(), 4);
    EXPECT_TRUE(lines[0].startsWith(QStringLiteral("Run,Driver,Best lap")));
    EXPECT_TRUE(lines[2].startsWith(QStringLiteral("Run 2,Brandvold,1:46.")));
    EXPECT_TRUE(lines[2].contains(QStringLiteral("\"dry, 17 °C\"")));
}

}  // namespace
}  // namespace rendak::app
