#include "app/desks/formulas/formulas_desk.h"

#include <QAbstractItemModelTester>
#include <QClipboard>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTableWidget>
#include <QTimer>
#include <QTreeWidget>

#include "app/desks/formulas/formula_edit.h"
#include "app/desks/formulas/name_picker.h"
#include "app/desks/formulas/preview_plot.h"
#include "app/text/shown.h"
#include "core/base/file_io.h"
#include "tests/app/window_fixture.h"
#include "tests/support/catalogue_trap.h"

namespace rendak::app {
namespace {

class FormulasTest : public WindowTest {
  protected:
    void SetUp() override {
        WindowTest::SetUp();
        compare_best();
        key(Qt::Key_8, Qt::ControlModifier);
        ASSERT_EQ(window_->desk(), QStringLiteral("formulas"));
    }
    FormulasDesk& desk() { return window_->desk_of<FormulasDesk>(); }
    void type(const QString& text) {
        desk().editor().setFocus();
        QTest::keyClicks(&desk().editor(), text);
        desk().editor().completer().popup()->hide();
        settle();
    }
    void click(const char* name) {
        auto* button = desk().findChild<QPushButton*>(QString::fromLatin1(name));
        ASSERT_NE(button, nullptr) << name;
        ASSERT_TRUE(button->isVisible()) << name;
        QTest::mouseClick(button, Qt::LeftButton);
        settle();
    }
    void set_name(const QString& name) {
        auto* line = desk().findChild<QLineEdit*>(QStringLiteral("formula-name"));
        line->setFocus();
        line->selectAll();
        QTest::keyClicks(line, name);
        settle();
    }
    /// Lets `act` work on the next dialog of this name.
    void in_dialog(const char* name, std::function<void(QDialog&)> act) {
        QTimer::singleShot(0, &desk(), [name = QString::fromLatin1(name), act = std::move(act)] {
            auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget());
            ASSERT_NE(dialog, nullptr);
            EXPECT_EQ(dialog->objectName(), name);
            if (const QByteArray folder = qgetenv("RENDAK_PICTURES"); !folder.isEmpty())
                dialog->grab().save(QString::fromLocal8Bit(folder) + QStringLiteral("/dialog-") + name +
                                    QStringLiteral(".png"));
            act(*dialog);
            if (dialog->isVisible()) dialog->reject();
        });
    }
    QStringList listed() {
        QStringList out;
        for (int i = 0; i < desk().list().topLevelItemCount(); ++i) {
            for (int k = 0; k < desk().list().topLevelItem(i)->childCount(); ++k)
                out << desk().list().topLevelItem(i)->text(0) + u'/' + desk().list().topLevelItem(i)->child(k)->text(0);
        }
        return out;
    }
};

TEST_F(FormulasTest, ShowsAShippedFormulaOnThePickedLap) {
    desk().show_formula(QStringLiteral("combined_g"));
    settle();
    EXPECT_TRUE(desk().editor().isReadOnly());
    EXPECT_TRUE(desk().message().contains(QStringLiteral("acceleration in g"))) << desk().message().toStdString();
    EXPECT_TRUE(desk().message().contains(QStringLiteral("100 Hz")));
    EXPECT_TRUE(desk().figures().contains(QStringLiteral("on lap"))) << desk().figures().toStdString();
    EXPECT_GT(desk().preview().trace().x.size(), 9000u);
    const QString uses = desk().findChild<QLabel*>(QStringLiteral("formula-uses"))->text();
    EXPECT_TRUE(uses.contains(QStringLiteral("<a href=\"lateral_smooth\">"))) << "a link: " << uses.toStdString();
}

TEST_F(FormulasTest, ANewFormulaIsCheckedWhileTypingSavedAndUndone) {
    click("new-formula");
    set_name(QStringLiteral("twice_the_speed"));
    type(QStringLiteral("speed * 2 + oil_presure"));
    EXPECT_TRUE(desk().message().contains(QStringLiteral("Did you mean oil_pressure?")))
        << desk().message().toStdString();
    ASSERT_EQ(desk().editor().extraSelections().size(), 1);
    EXPECT_EQ(desk().editor().extraSelections()[0].cursor.selectedText(), QStringLiteral("oil_presure"));
    for (int i = 0; i < 14; ++i) QTest::keyClick(&desk().editor(), Qt::Key_Backspace);
    settle();
    EXPECT_EQ(desk().editor().toPlainText(), QStringLiteral("speed * 2"));
    EXPECT_TRUE(desk().editor().extraSelections().isEmpty());
    EXPECT_TRUE(desk().message().contains(QStringLiteral("speed in km/h"))) << desk().message().toStdString();
    EXPECT_TRUE(listed().contains(QStringLiteral("My formulas/new_formula · not saved")))
        << listed().join(u' ').toStdString();

    click("save-formula");
    EXPECT_TRUE(listed().contains(QStringLiteral("My formulas/twice_the_speed")));
    ASSERT_EQ(window_->workspace().library().formula_sets().value().size(), 1u);
    // A channel like any other, at once.
    click("show-in-compare");
    EXPECT_EQ(window_->desk(), QStringLiteral("compare"));
    EXPECT_EQ(window_->desk_of<CompareDesk>().canvas().lanes().back().quantity, "twice_the_speed");
    window_->grab();
    settle();
    const auto& comparison = window_->workspace().comparison();
    EXPECT_NEAR(comparison.value_at_cursor(0, "twice_the_speed"), 2 * comparison.value_at_cursor(0, "speed"), 1e-3);
    EXPECT_EQ(shown("twice_the_speed").label, QStringLiteral("Twice the speed"));
    EXPECT_EQ(shown("twice_the_speed").unit, QStringLiteral("km/h"));

    key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_TRUE(window_->workspace().library().formula_sets().value().empty());
    EXPECT_FALSE(comparison.offers("twice_the_speed"));
    EXPECT_TRUE(desk().editor().toPlainText().isEmpty());
    EXPECT_TRUE(desk().editor().isReadOnly()) << "nothing is chosen any more";
}

TEST_F(FormulasTest, ACopyWinsOverTheShippedOne) {
    desk().show_formula(QStringLiteral("braking"));
    settle();
    click("copy-formula");
    EXPECT_EQ(desk().shown_set(), QStringLiteral("My formulas"));
    desk().editor().selectAll();
    type(QStringLiteral("brake_front > 20 bar"));
    click("save-formula");
    const auto& book = window_->workspace().comparison().laps().baseline().run->formulas->inputs().book;
    EXPECT_EQ(book.entries.at("braking").set, "My formulas");
    EXPECT_EQ(window_->workspace().library().formula_history("My formulas").value().size(), 2u);
}

TEST_F(FormulasTest, WhatCouldNotBeSavedStaysADraft) {
    click("new-formula");
    set_name(QStringLiteral("mine"));
    type(QStringLiteral("speed * 3"));
    {
        const test::CatalogueTrap trap(folder_.path(), "formula_versions");
        click("save-formula");
    }
    EXPECT_FALSE(window_->status().message().contains(QStringLiteral("Saved")))
        << window_->status().message().toStdString();
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("Nothing was changed")))
        << window_->status().message().toStdString();
    EXPECT_EQ(desk().editor().toPlainText(), QStringLiteral("speed * 3"));
    EXPECT_EQ(desk().draft().name, "mine");
    EXPECT_FALSE(listed().contains(QStringLiteral("My formulas/mine")));
    click("save-formula");
    EXPECT_TRUE(listed().contains(QStringLiteral("My formulas/mine")));
}

TEST_F(FormulasTest, AWindowWithDraftsAsksBeforeItCloses) {
    click("new-formula");
    set_name(QStringLiteral("kept"));
    type(QStringLiteral("speed * 4"));
    QStringList asked;
    auto answer = FormulasDesk::Answer::stay;
    desk().ask_about_drafts = [&](const QStringList& names) {
        asked = names;
        return answer;
    };
    EXPECT_FALSE(window_->close());
    EXPECT_EQ(asked, QStringList{QStringLiteral("kept")});
    EXPECT_TRUE(window_->isVisible());
    answer = FormulasDesk::Answer::save;
    EXPECT_TRUE(window_->close());
    EXPECT_EQ(window_->workspace().library().formula_sets().value().size(), 1u);
}

TEST_F(FormulasTest, ThePreviewCanBeCancelled) {
    click("new-formula");
    desk().editor().setPlainText(QStringLiteral("median_filter(median_filter(engine_speed, 20 s), 20 s)"));
    window_->workspace().jobs().cancel_all();
    settle();
    if (desk().figures().contains(QStringLiteral("on lap"))) GTEST_SKIP() << "computed before it could be cancelled";
    EXPECT_TRUE(desk().message().contains(QStringLiteral("Cancelled"))) << desk().message().toStdString();
    EXPECT_TRUE(desk().preview().trace().x.empty());
    desk().editor().setPlainText(QStringLiteral("speed"));
    settle();
    EXPECT_TRUE(desk().figures().contains(QStringLiteral("on lap"))) << "an edit begins it anew";
}

TEST_F(FormulasTest, DraftsSurviveALookElsewhereAndCanBeReverted) {
    desk().show_formula(QStringLiteral("braking"));
    click("copy-formula");
    type(QStringLiteral(" and speed > 30 km/h"));
    const QString edited = desk().editor().toPlainText();
    desk().show_formula(QStringLiteral("roll"));
    settle();
    desk().show_formula(QStringLiteral("braking"), QStringLiteral("My formulas"));
    settle();
    EXPECT_EQ(desk().editor().toPlainText(), edited);
    click("revert-formula");
    EXPECT_NE(desk().editor().toPlainText(), edited);
}

TEST_F(FormulasTest, NamesAreCompletedAndPicked) {
    click("new-formula");
    desk().editor().setFocus();
    QTest::keyClicks(&desk().editor(), QStringLiteral("lateral_acc"));
    ASSERT_TRUE(desk().editor().completer().popup()->isVisible());
    QTest::keyClick(desk().editor().completer().popup(), Qt::Key_Return);
    EXPECT_EQ(desk().editor().toPlainText(), QStringLiteral("lateral_acceleration"));
    QTest::keyClicks(&desk().editor(), QStringLiteral(" * "));
    desk().names().show_kind(NamePicker::functions);
    desk().names().filter().setText(QStringLiteral("hypot"));
    auto& list = desk().names().list();
    ASSERT_EQ(list.topLevelItemCount(), 1);
    Q_EMIT list.itemActivated(list.topLevelItem(0)->child(0), 0);
    EXPECT_EQ(desk().editor().toPlainText(), QStringLiteral("lateral_acceleration * hypot()"));
    desk().names().filter().clear();
    desk().names().show_kind(NamePicker::constants);
    desk().names().filter().setText(QStringLiteral("wheelbase"));
    ASSERT_EQ(list.topLevelItemCount(), 1);
    EXPECT_EQ(list.topLevelItem(0)->child(0)->text(0), QStringLiteral("car.wheelbase"));
    EXPECT_TRUE(list.topLevelItem(0)->child(0)->text(1).contains(QStringLiteral("2.55")));
    settle();
}

TEST_F(FormulasTest, AFormulaIsPastedWithUnitAndRange) {
    ASSERT_TRUE(
        desk().paste(QStringLiteral("front_slip in % from -20 to 20 with 1 decimals = wheel_speed_fl / speed - 1")));
    settle();
    EXPECT_EQ(desk().draft().name, "front_slip");
    EXPECT_EQ(desk().draft().unit, "%");
    EXPECT_EQ(desk().draft().range, (Interval{-20, 20}));
    EXPECT_TRUE(desk().figures().contains(QStringLiteral("%"))) << desk().figures().toStdString();
    EXPECT_EQ(desk().preview().values(), (Interval{-20, 20}));
    EXPECT_FALSE(desk().paste(QStringLiteral("nothing to see")));
}

TEST_F(FormulasTest, AnImportShowsClashesAndOverwritesNothingUnasked) {
    desk().show_formula(QStringLiteral("braking"));
    click("copy-formula");
    const auto file = folder_.path() / "theirs.json";
    formula::FormulaSet theirs{
        "My formulas", {}, "", {{"braking", "", "brake_front > 5 bar", ""}, {"another_one", "", "speed * 3", ""}}};
    ASSERT_TRUE(write_file(file, formula::set_to_json(theirs)));
    in_dialog("merge", [](QDialog& dialog) {
        auto* table = dialog.findChild<QTableWidget*>();
        ASSERT_EQ(table->rowCount(), 2);
        EXPECT_EQ(table->item(0, 1)->text() + table->item(1, 1)->text(), QStringLiteral("newclashes"));
        dialog.accept();
    });
    desk().import_set(QString::fromStdString(file.string()));
    settle();
    const auto sets = formula_sets(window_->workspace().library()).value();
    ASSERT_EQ(sets.size(), 1u);
    EXPECT_NE(sets[0].find("braking")->text, "brake_front > 5 bar");
    ASSERT_NE(sets[0].find("another_one"), nullptr);
    in_dialog("merge", [](QDialog& dialog) {
        auto* table = dialog.findChild<QTableWidget*>();
        for (int i = 0; i < table->rowCount(); ++i) {
            auto* choice = static_cast<QComboBox*>(table->cellWidget(i, 4));
            if (table->item(i, 0)->text() == QStringLiteral("braking")) choice->setCurrentIndex(2);
        }
        dialog.accept();
    });
    desk().import_set(QString::fromStdString(file.string()));
    settle();
    EXPECT_EQ(formula_sets(window_->workspace().library()).value()[0].find("braking_2")->text, "brake_front > 5 bar");
}

TEST_F(FormulasTest, OneGoesBackToAnEarlierVersion) {
    desk().show_formula(QStringLiteral("braking"));
    click("copy-formula");
    const std::string first = desk().draft().text;
    type(QStringLiteral(" and speed > 30 km/h"));
    click("save-formula");
    in_dialog("history", [](QDialog& dialog) {
        auto* versions = dialog.findChild<QListWidget*>();
        ASSERT_EQ(versions->count(), 2);
        versions->setCurrentRow(1);
        auto* table = dialog.findChild<QTableWidget*>();
        ASSERT_EQ(table->rowCount(), 1);
        EXPECT_EQ(table->item(0, 1)->text(), QStringLiteral("differs"));
        dialog.accept();
    });
    desk().show_history();
    settle();
    EXPECT_EQ(formula_sets(window_->workspace().library()).value()[0].find("braking")->text, first);
    EXPECT_EQ(window_->workspace().library().formula_history("My formulas").value().size(), 3u);
}

TEST_F(FormulasTest, ConstantsAreMeasuredAtRestIntoTheCarSheet) {
    in_dialog("measure", [](QDialog& dialog) {
        auto* table = dialog.findChild<QTableWidget*>(QStringLiteral("rest-figures"));
        ASSERT_GT(table->rowCount(), 20);
        for (int i = 0; i < table->rowCount(); ++i) {
            if (table->item(i, 0)->text() == QStringLiteral("Yaw Rate")) table->item(i, 0)->setCheckState(Qt::Checked);
        }
        QTest::mouseClick(dialog.findChild<QPushButton*>(QStringLiteral("keep-constants")), Qt::LeftButton);
    });
    desk().measure_at_rest();
    settle();
    const auto sheets = window_->workspace().library().car_sheets().value();
    ASSERT_EQ(sheets.size(), 1u);
    EXPECT_EQ(sheets[0].values.back().name, "yaw_rate_at_rest");
    EXPECT_EQ(sheets[0].values.back().unit, "°/s");
    click("new-formula");
    type(QStringLiteral("yaw_rate - car.yaw_rate_at_rest"));
    EXPECT_TRUE(desk().message().contains(QStringLiteral("rate of turn"))) << desk().message().toStdString();
    key(Qt::Key_Z, Qt::ControlModifier);
}

TEST_F(FormulasTest, WithoutALapItChecksAndSaysWhatToDo) {
    focus().clear_laps();
    settle();
    desk().show_formula(QStringLiteral("roll"));
    settle();
    EXPECT_TRUE(desk().message().contains(QStringLiteral("angle in °"))) << desk().message().toStdString();
    EXPECT_TRUE(desk().figures().isEmpty());
    EXPECT_TRUE(desk().preview().trace().x.empty());
}

TEST_F(FormulasTest, ALaneThatCannotBeComputedSaysWhy) {
    ASSERT_TRUE(desk().paste(QStringLiteral("boost in bar = boost_pressure * 2")));
    settle();
    EXPECT_TRUE(desk().message().contains(QStringLiteral("boost_pressure"))) << desk().message().toStdString();
    click("save-formula");
    window_->show_desk(QStringLiteral("compare"));
    window_->desk_of<CompareDesk>().canvas().set_lanes({{"speed", 1}, {"boost", 1}});
    window_->grab();
    settle();
    const QString why = window_->workspace().comparison().why_not("boost");
    EXPECT_TRUE(why.contains(QStringLiteral("boost_pressure"))) << why.toStdString();
}

}  // namespace
}  // namespace rendak::app
