#include "app/shell/overview_command.h"

#include <QJsonDocument>
#include <QJsonObject>
#include <QTextStream>

#include "app/desks/compare/overview_page.h"
#include "app/plot/view_out.h"
#include "app/shell/command_words.h"
#include "app/text/sentences.h"
#include "app/theme/theme.h"
#include "core/intake/lap_set.h"

namespace rendak::app {
namespace {

Result<LapSet> set_of(const Library& library, const QStringList& words, bool mixed) {
    std::vector<std::string> texts;
    for (const QString& word : words) texts.push_back(word.toStdString());
    return named_lap_set(library, texts, mixed, [&](RunId id) { return load_run(library, id); });
}

QString set_name(const QString& letter, const LapSet& set) {
    const QString run = QString::fromStdString(set.runs.front()->row.name);
    return letter + u' ' + run + QStringLiteral(", ") +
           (set.laps.size() == 1 ? QStringLiteral("lap %1").arg(set.laps.front().ref.lap)
                                 : QStringLiteral("%1 laps").arg(set.laps.size()));
}

}  // namespace

int overview_command(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription(QStringLiteral("Two laps, or two sets of laps, on one page, without a window."));
    parser.addHelpOption();
    const QCommandLineOption library_option(QStringLiteral("library"), QStringLiteral("Folder of the library."),
                                            QStringLiteral("DIR")),
        a_option(QStringLiteral("a"), QStringLiteral("Laps of A."), QStringLiteral("SET")),
        b_option(QStringLiteral("b"), QStringLiteral("Laps of B."), QStringLiteral("SET")),
        out_option(QStringLiteral("out"), QStringLiteral("What to write: .png, .svg or .pdf."), QStringLiteral("FILE")),
        mixed(QStringLiteral("mixed"), QStringLiteral("Laps of several drivers or cars in one set."));
    for (const auto* option : {&library_option, &a_option, &b_option, &out_option, &mixed}) parser.addOption(*option);
    parser.process(arguments);
    const auto library = Library::open(parser.value(library_option).toStdString(), Library::Open::existing);
    if (!library) return complain("overview", QString::fromStdString(library.error().text()));
    const auto a = set_of(**library, parser.values(a_option), parser.isSet(mixed));
    if (!a) return complain("overview", QString::fromStdString(a.error().text()));
    const auto b = set_of(**library, parser.values(b_option), parser.isSet(mixed));
    if (!b) return complain("overview", QString::fromStdString(b.error().text()));
    if (a->runs.front()->row.track != b->runs.front()->row.track)
        return complain("overview", QStringLiteral("A and B were driven on different tracks."));
    const auto story = story_of(a->laps, b->laps);
    if (!story) return complain("overview", QString::fromStdString(story.error().text()));
    const auto told = std::make_shared<const OverviewTold>(
        overview_told(a->laps, b->laps, *story, a->runs.front()->row, b->runs.front()->row,
                      set_name(QStringLiteral("A"), *a), set_name(QStringLiteral("B"), *b), {}));
    constexpr int width_px = 680;
    const OverviewPage page(told, width_px);
    const ViewOut view{QStringLiteral("Overview"), QSize(width_px, page.height()), [&](QPainter& painter, QSize size) {
                           painter.fillRect(QRect(QPoint(), size), theme().panel);
                           page.paint(painter);
                       }};
    const QString file = parser.value(out_option);
    const auto written = write_picture(view, file.toStdString());
    if (!written) return complain("overview", QString::fromStdString(written.error().text()));
    QTextStream(stdout) << QJsonDocument(QJsonObject{{QStringLiteral("file"), file}}).toJson();
    return 0;
}

}  // namespace rendak::app
