#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QMessageBox>
#include <QStandardPaths>
#include <QTextStream>
#include <cstdlib>

#include "app/shell/main_window.h"
#include "app/shell/screenshots.h"
#include "app/theme/theme.h"

using namespace rendak;
using namespace rendak::app;

int main(int count, char** arguments) {
    bool screenshots = false;
    for (int i = 1; i < count; ++i) screenshots = screenshots || QByteArray(arguments[i]).startsWith("--screenshots");
    // Pictures need no display.
    if (screenshots && qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication application(count, arguments);
    QApplication::setApplicationName(QStringLiteral("rendak"));
    QApplication::setApplicationVersion(QStringLiteral("0.1.0"));
    load_fonts();

    QCommandLineParser parser;
    parser.setApplicationDescription(QStringLiteral("Where is the time? Logged car data for race engineers."));
    parser.addHelpOption();
    parser.addVersionOption();
    const QCommandLineOption library_option(
        QStringLiteral("library"), QStringLiteral("Folder of the library."), QStringLiteral("DIR"),
        QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + QStringLiteral("/library"));
    const QCommandLineOption screenshots_option(
        QStringLiteral("screenshots"),
        QStringLiteral("Write a picture of each main view into DIR and quit; needs no display."),
        QStringLiteral("DIR"));
    parser.addOption(library_option);
    parser.addOption(screenshots_option);
    parser.addPositionalArgument(QStringLiteral("files"), QStringLiteral("Logged files to import."),
                                 QStringLiteral("[files...]"));
    parser.process(application);

    auto library = Library::open(parser.value(library_option).toStdString());
    if (!library) {
        const QString text = QString::fromStdString(library.error().text());
        QTextStream(stderr) << "rendak: " << text << "\n";
        if (!screenshots) {
            QMessageBox box(QMessageBox::Critical, QStringLiteral("Rendak"), QString(), QMessageBox::Close);
            box.setTextFormat(Qt::PlainText);
            box.setText(text);
            box.exec();
        }
        return 1;
    }
    MainWindow window(std::move(*library));
    if (parser.isSet(screenshots_option)) return take_screenshots(window, parser.value(screenshots_option)) ? 0 : 1;
    window.show();
    if (!parser.positionalArguments().isEmpty()) window.logbook().import_files(parser.positionalArguments());
    const int code = QApplication::exec();
    // A job that hangs in the system cannot be waited for. Leaving at any moment loses nothing (docs/reliability.md).
    if (!window.workspace().jobs().stop_within(1200)) std::_Exit(code);
    return code;
}
