#include <gtest/gtest.h>

#include <QApplication>
#include <QTemporaryDir>

#include "app/theme/theme.h"

int main(int count, char** arguments) {
    if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    // Nobody's preferences are read or written.
    const QTemporaryDir settings;
    qputenv("RENDAK_SETTINGS", settings.filePath(QStringLiteral("settings")).toUtf8());
    testing::InitGoogleTest(&count, arguments);
    QApplication application(count, arguments);
    rendak::app::load_fonts();
    return RUN_ALL_TESTS();
}
