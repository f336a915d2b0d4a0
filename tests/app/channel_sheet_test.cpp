// The channel sheet, as a person uses it: look, search, put a channel right, for one run or from now on, and take it
// back.
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTableWidget>
#include <QTreeView>

#include "app/desks/logbook/channel_sheet_dialog.h"
#include "app/theme/theme.h"
#include "core/intake/import.h"
#include "core/intake/run_recording.h"
#include "tests/app/window_fixture.h"
#include "tests/support/got.h"

namespace rendak::app {
namespace {

using rendak::test::got;

class ChannelSheetTest : public WindowTest {
  protected:
    ChannelSheetDialog& opened(RunId run = {2}) {
        auto& desk = window_->desk_of<LogbookDesk>();
        desk.select_run(run);
        settle();
        dialog_ = desk.show_channels();
        settle();
        return *dialog_;
    }
    template <class T>
    T& part(const char* name) {
        return *dialog_->findChild<T*>(QLatin1String(name));
    }
    QTableWidget& table() { return part<QTableWidget>("channel-table"); }
    int row_of(const QString& channel) {
        for (int row = 0; row < table().rowCount(); ++row) {
            if (table().item(row, 0)->text() == channel) return row;
        }
        return -1;
    }
    Library& library() { return window_->workspace().library(); }
    double value(const std::string& channel, RunId run = {2}) {
        return got(run_recording(library(), run)).find_name(channel)->value_at(120);
    }
    void press(const char* button) {
        QTest::mouseClick(&part<QPushButton>(button), Qt::LeftButton);
        settle();
    }
    void TearDown() override {
        delete dialog_;
        WindowTest::TearDown();
    }
    ChannelSheetDialog* dialog_ = nullptr;
};

TEST_F(ChannelSheetTest, ShowsEveryChannelWithWhatItIsTakenForAndWhy) {
    opened();
    const auto recording = got(run_recording(library(), {2}));
    EXPECT_EQ(table().rowCount(), static_cast<int>(recording.channels.size()));
    const int brake = row_of(QStringLiteral("Brake Pres Front"));
    ASSERT_GE(brake, 0);
    EXPECT_EQ(table().item(brake, 1)->text(), QStringLiteral("Brake front"));
    EXPECT_EQ(table().item(brake, 4)->text(), QStringLiteral("bar"));
    EXPECT_FALSE(table().item(brake, 2)->text().isEmpty());
    EXPECT_TRUE(table().item(row_of(QStringLiteral("Damper RR")), 9)->text().contains(QStringLiteral("stuck")) ||
                table().item(row_of(QStringLiteral("Damper RL")), 9)->text().contains(QStringLiteral("stuck")))
        << "the demo's stuck damper is named";
    const QByteArray folder = qgetenv("RENDAK_PICTURES");
    if (!folder.isEmpty()) dialog_->grab().save(QString::fromLocal8Bit(folder) + QStringLiteral("/channel-sheet.png"));
    auto* search = dialog_->findChild<QLineEdit*>();
    QTest::keyClicks(search, QStringLiteral("brake"));
    int seen = 0;
    for (int row = 0; row < table().rowCount(); ++row) {
        if (table().isRowHidden(row)) continue;
        ++seen;
        EXPECT_TRUE((table().item(row, 0)->text() + table().item(row, 1)->text())
                        .contains(QStringLiteral("brake"), Qt::CaseInsensitive));
    }
    EXPECT_GE(seen, 2);
    EXPECT_LT(seen, table().rowCount());
}

TEST_F(ChannelSheetTest, AScaleIsAppliedUndoneAndDoneAgain) {
    opened();
    const double before = value("Throttle");
    dialog_->select("Throttle");
    part<QDoubleSpinBox>("channel-scale").setValue(0.5);
    press("channel-apply");
    EXPECT_NEAR(value("Throttle"), 0.5 * before, 1e-6);
    EXPECT_EQ(table().item(row_of(QStringLiteral("Throttle")), 2)->text(), QStringLiteral("said by hand"));
    EXPECT_EQ(part<QDoubleSpinBox>("channel-scale").value(), 0.5) << "the same channel stays selected";
    window_->workspace().session()->undo();
    settle();
    EXPECT_NEAR(value("Throttle"), before, 1e-6);
    window_->workspace().session()->redo();
    settle();
    EXPECT_NEAR(value("Throttle"), 0.5 * before, 1e-6);
}

TEST_F(ChannelSheetTest, AChannelIsTakenForNothingAndForSomethingAgain) {
    opened();
    dialog_->select("Throttle");
    auto& quantity = part<QComboBox>("channel-quantity");
    EXPECT_EQ(quantity.currentData().toString(), QStringLiteral("throttle"));
    quantity.setCurrentIndex(quantity.findData(QString()));
    press("channel-apply");
    EXPECT_EQ(got(run_recording(library(), {2})).find_logged("throttle"), nullptr);
    ASSERT_NE(got(run_recording(library(), {2})).find_name("Throttle"), nullptr) << "it keeps its name";
    // What cannot be is said, and changes nothing.
    quantity.setCurrentIndex(quantity.findData(QStringLiteral("oil_pressure")));
    press("channel-apply");
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("plain numbers")))
        << window_->status().message().toStdString();
    quantity.setCurrentIndex(quantity.findData(QStringLiteral("throttle")));
    press("channel-apply");
    EXPECT_NE(got(run_recording(library(), {2})).find_logged("throttle"), nullptr);
}

TEST_F(ChannelSheetTest, ForAllRunsFromThisOneOnAndBack) {
    opened({1});
    const double before = value("Throttle", {2});
    dialog_->select("Throttle");
    part<QDoubleSpinBox>("channel-offset").setValue(0.01);
    dialog_->findChild<QCheckBox*>()->setChecked(true);
    press("channel-apply");
    EXPECT_NEAR(value("Throttle", {2}), before + 0.01, 1e-6);
    EXPECT_EQ(got(library().channel_templates()).size(), 1u);
    window_->workspace().session()->undo();
    settle();
    EXPECT_NEAR(value("Throttle", {2}), before, 1e-6);
    EXPECT_TRUE(got(library().channel_templates()).empty());
}

TEST_F(ChannelSheetTest, ZeroAtRestComesFromTheStandingCar) {
    opened({1});
    dialog_->select("Brake Pres Front");
    press("channel-zero");
    const double offset = part<QDoubleSpinBox>("channel-offset").value();
    EXPECT_LT(std::abs(offset), 1e5) << "the demo's sensor is nearly right";
    EXPECT_TRUE(part<QDoubleSpinBox>("channel-offset").suffix().contains(QStringLiteral("Pa")));
}

TEST_F(ChannelSheetTest, WhatCannotBeToldIsAsked) {
    opened();
    dialog_->ask({"speed", {"GPS Speed", "Wheel Speed RL"}});
    settle();
    EXPECT_TRUE(dialog_->findChild<QCheckBox*>()->isChecked()) << "and remembered, unless unticked";
    bool asked = false;
    for (const QLabel* label : dialog_->findChildren<QLabel*>())
        asked = asked || label->text().contains(QStringLiteral("Which channel is the speed?"));
    EXPECT_TRUE(asked);
}

TEST_F(ChannelSheetTest, LongNamesAndASmallDarkSheetStayReadable) {
    Recording odd;
    odd.source_name = "bench.csv";
    odd.logger = "A logger whose maker could not stop naming it";
    const std::string longest = "Oil pressure behind the second filter of the left bank, before the cooler, raw value";
    for (const std::string& name : {longest, std::string("x")}) {
        ChannelStorage storage;
        for (int i = 0; i < 600; ++i) storage.floats.push_back(static_cast<float>(std::sin(0.1 * i)));
        odd.channels.push_back(make_channel(name, "", "", std::move(storage), 0, 10));
    }
    ImportOptions options;
    options.car = "A car with a name that nobody would give to a car, but here it is";
    const RunId run = got(import_recording(library(), {odd, {}}, options)).run;
    window_->workspace().library_changed(Change::papers);
    settle();
    apply_theme(true);
    opened(run);
    dialog_->resize(760, 420);
    settle();
    EXPECT_EQ(dialog_->width(), 760) << "long names do not push it wider";
    ASSERT_EQ(table().rowCount(), 2);
    EXPECT_EQ(table().item(0, 0)->toolTip().toStdString(), longest) << "the whole name is at hand";
    dialog_->select(longest);
    const auto& apply = part<QPushButton>("channel-apply");
    EXPECT_TRUE(dialog_->rect().contains(QRect(apply.mapTo(dialog_, QPoint(0, 0)), apply.size())));
    const QByteArray folder = qgetenv("RENDAK_PICTURES");
    if (!folder.isEmpty())
        dialog_->grab().save(QString::fromLocal8Bit(folder) + QStringLiteral("/channel-sheet-odd.png"));
    apply_theme(false);
}

TEST_F(ChannelSheetTest, NoRunSelectedIsSaid) {
    auto& desk = window_->desk_of<LogbookDesk>();
    desk.findChild<QTreeView*>()->clearSelection();
    settle();
    EXPECT_EQ(desk.show_channels(), nullptr);
    EXPECT_TRUE(window_->status().message().contains(QStringLiteral("Select a run")));
}

}  // namespace
}  // namespace rendak::app
