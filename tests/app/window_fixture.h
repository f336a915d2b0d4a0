#pragma once

#include <gtest/gtest.h>

#include <QApplication>
#include <QTest>
#include <filesystem>

#include "app/desks/collect/collect_desk.h"
#include "app/desks/compare/compare_desk.h"
#include "app/desks/corners/corners_desk.h"
#include "app/desks/formulas/formulas_desk.h"
#include "app/desks/logbook/logbook_desk.h"
#include "app/desks/track/track_desk.h"
#include "app/shell/main_window.h"
#include "app/shell/screenshots.h"
#include "tests/support/demo_data.h"
#include "tests/support/temp_folder.h"

namespace rendak::app {

/// A real window on a copy of the demo library that it may edit.
class WindowTest : public testing::Test {
  protected:
    void SetUp() override {
        test::copy_library(test::saturday_library(), folder_.path());
        open_window();
    }

    void open_window() {
        auto library = Library::open(folder_.path());
        ASSERT_TRUE(library) << library.error().text();
        window_ = std::make_unique<MainWindow>(std::move(*library));
        window_->resize(1280, 800);
        window_->show();
        settle();
    }
    /// Patient: under the sanitizers and beside other work everything takes many times as long.
    void settle() { ASSERT_TRUE(wait_until_idle(*window_, 600)); }
    /// Best laps of runs 2 and 3 in the tray, Compare in front.
    void compare_best() {
        window_->workspace().pick_best({2});
        window_->workspace().pick_best({3});
        window_->show_desk(QStringLiteral("compare"));
        settle();
    }
    Focus& focus() { return window_->workspace().focus(); }
    const FocusState& state() { return focus().state(); }
    const ComparedLaps& laps() { return window_->workspace().comparison().laps(); }
    void key(Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        window_->activateWindow();
        QApplication::processEvents();
        QTest::keyClick(window_.get(), key, modifiers);
        settle();
    }
    void drag(QWidget& widget, QPoint from, QPoint to, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        QTest::mousePress(&widget, Qt::LeftButton, modifiers, from);
        for (int i = 1; i <= 4; ++i) {
            // QTest::mouseMove carries no button: send what a hand sends.
            const QPointF at = QPointF(from) + (QPointF(to) - QPointF(from)) * (i / 4.0);
            QMouseEvent move(QEvent::MouseMove, at, widget.mapToGlobal(at), Qt::NoButton, Qt::LeftButton, modifiers);
            QApplication::sendEvent(&widget, &move);
        }
        QTest::mouseRelease(&widget, Qt::LeftButton, modifiers, to);
        settle();
    }

    /// A picture for whoever looks at it, where RENDAK_PICTURES names a folder.
    static void keep_picture(QWidget* widget, const QString& name) {
        if (qEnvironmentVariableIsSet("RENDAK_PICTURES")) keep_image(widget->grab().toImage(), name);
    }
    static void keep_image(const QImage& image, const QString& name) {
        const QByteArray folder = qgetenv("RENDAK_PICTURES");
        if (!folder.isEmpty()) image.save(QString::fromLocal8Bit(folder) + u'/' + name + QStringLiteral(".png"));
    }

    test::TempFolder folder_;
    std::unique_ptr<MainWindow> window_;
};

/// Compare in front, with the best laps of two runs.
class OnCompareTest : public WindowTest {
  protected:
    void SetUp() override {
        WindowTest::SetUp();
        compare_best();
    }
    CompareDesk& desk() { return window_->desk_of<CompareDesk>(); }
    TraceCanvas& canvas() { return desk().canvas(); }
    Beside& beside() { return desk().beside(); }
};

}  // namespace rendak::app
