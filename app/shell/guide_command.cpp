#include "app/shell/guide_command.h"

#include <QFileInfo>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTextStream>

#include "app/desks/guide/guide_booklet.h"
#include "app/shell/command_words.h"

namespace rendak::app {
int guide_command(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription(QStringLiteral("A track guide on paper, without a window."));
    parser.addHelpOption();
    const QCommandLineOption library_option(QStringLiteral("library"), QStringLiteral("Folder of the library."),
                                            QStringLiteral("DIR"));
    const QCommandLineOption lap_option(QStringLiteral("lap"), QStringLiteral("The lap to go round with: RUN:LAP."),
                                        QStringLiteral("LAP"));
    const QCommandLineOption out_option(QStringLiteral("out"), QStringLiteral("What to write: a .pdf file."),
                                        QStringLiteral("FILE"));
    for (const QCommandLineOption& option : {library_option, lap_option, out_option}) parser.addOption(option);
    parser.process(arguments);
    const QStringList words = parser.value(lap_option).split(u':');
    bool run_known = false, lap_known = false;
    const RunId run{words.value(0).toLongLong(&run_known)};
    const int number = words.value(1).toInt(&lap_known);
    if (!run_known || !lap_known) return complain("guide", QStringLiteral("Name the lap with --lap RUN:LAP."));
    const QString out = parser.value(out_option);
    if (QFileInfo(out).suffix().toLower() != QLatin1String("pdf"))
        return complain("guide", QStringLiteral("Name the file with --out FILE.pdf."));
    const auto library = Library::open(parser.value(library_option).toStdString(), Library::Open::existing);
    if (!library) return complain("guide", QString::fromStdString(library.error().text()));
    const auto opened = load_run(**library, run);
    if (!opened) return complain("guide", QString::fromStdString(opened.error().text()));
    const auto lap = prepare_lap(**opened, number);
    if (!lap) return complain("guide", QString::fromStdString(lap.error().text()));
    const auto written = write_booklet(*guide_data(**opened, *lap), out.toStdString());
    if (!written) return complain("guide", QString::fromStdString(written.error().text()));
    QTextStream(stdout) << QJsonDocument(QJsonObject{{QStringLiteral("file"), out},
                                                     {QStringLiteral("run"), static_cast<qint64>(run.value)},
                                                     {QStringLiteral("lap"), number}})
                               .toJson();
    return 0;
}

}  // namespace rendak::app
