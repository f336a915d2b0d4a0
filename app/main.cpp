#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QFileInfo>
#include <QIcon>
#include <QMessageBox>
#include <QPointer>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTextStream>
#include <cstdlib>
#include <string_view>

#include "app/desks/logbook/logbook_desk.h"
#include "app/session/preferences.h"
#include "app/shell/clip_command.h"
#include "app/shell/guide_command.h"
#include "app/shell/main_window.h"
#include "app/shell/overview_command.h"
#include "app/shell/plot_command.h"
#include "app/shell/screenshots.h"
#include "app/theme/theme.h"
#include "core/base/keep_freed.h"

using namespace rendak;
using namespace rendak::app;

int main(int count, char** arguments) {
    rendak::keep_freed_memory();
    const bool plot = count > 1 && std::string_view(arguments[1]) == "plot";
    const bool guide = count > 1 && std::string_view(arguments[1]) == "guide";
    const bool overview = count > 1 && std::string_view(arguments[1]) == "overview";
    const bool clip = count > 1 && std::string_view(arguments[1]) == "clip";
    bool screenshots = false, words_only = plot || guide || overview || clip;
    for (int i = 1; i < count; ++i) {
        const QByteArray argument(arguments[i]);
        screenshots = screenshots || argument.startsWith("--screenshots");
        words_only = words_only || argument == "--help" || argument == "-h" || argument == "--help-all" ||
                     argument == "--version" || argument == "-v";
    }
    // Pictures and words need no display.
    if ((screenshots || words_only) && qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM"))
        qputenv("QT_QPA_PLATFORM", "offscreen");
    QApplication application(count, arguments);
    QApplication::setApplicationName(QStringLiteral("rendak"));
    QApplication::setApplicationVersion(QStringLiteral(RENDAK_VERSION));
    // Ties the window to its entry among the desktop's programs, and so to its icon.
    QGuiApplication::setDesktopFileName(QStringLiteral("rendak"));
    QGuiApplication::setWindowIcon(QIcon(QStringLiteral(":/icons/rendak.svg")));
    load_fonts();

    if (plot) return plot_command(QApplication::arguments().mid(1));
    if (overview) return overview_command(QApplication::arguments().mid(1));
    if (clip) return clip_command(QApplication::arguments().mid(1));
    if (guide) return guide_command(QApplication::arguments().mid(1));

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
    parser.addPositionalArgument(QStringLiteral("files"), QStringLiteral("Logged files to import, or bundles to read."),
                                 QStringLiteral("[files...]"));
    parser.process(application);

    // Without a word: the one used last, where it is still there.
    QString folder = parser.value(library_option);
    const QStringList recent = screenshots ? QStringList() : Preferences::of_person().recent_libraries();
    if (!parser.isSet(library_option) && !recent.isEmpty() &&
        QFileInfo::exists(recent.first() + QStringLiteral("/library.sqlite")))
        folder = recent.first();
    auto library = Library::open(folder.toStdString());
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
    // Pictures are the same whatever a person prefers.
    QTemporaryDir no_preferences;
    if (screenshots) qputenv("RENDAK_SETTINGS", no_preferences.filePath(QStringLiteral("settings")).toUtf8());
    // A window that is closed is gone, with all that it watches: another library may have taken its place.
    QPointer<MainWindow> window = new MainWindow(std::move(*library));
    window->setAttribute(Qt::WA_DeleteOnClose);
    if (parser.isSet(screenshots_option)) {
        const bool taken = take_screenshots(*window, parser.value(screenshots_option));
        delete window;
        return taken ? 0 : 1;
    }
    const auto session = window->workspace().session();
    window->show();
    window->arrange(Preferences::of_person().windows());
    Preferences::of_person().use_library(QFileInfo(folder).absoluteFilePath());
    if (!parser.positionalArguments().isEmpty())
        window->desk_of<LogbookDesk>().import_files(parser.positionalArguments());
    const int code = QApplication::exec();
    // A job that hangs in the system cannot be waited for. Leaving at any moment loses nothing (docs/reliability.md).
    if (!session->jobs().stop_within(1200)) std::_Exit(code);
    return code;
}
