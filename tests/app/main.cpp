#include <gtest/gtest.h>

#include <QApplication>

#include "app/theme/theme.h"

int main(int count, char** arguments) {
    if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    testing::InitGoogleTest(&count, arguments);
    QApplication application(count, arguments);
    rendak::app::load_fonts();
    return RUN_ALL_TESTS();
}
