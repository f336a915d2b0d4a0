#include "app/shell/plot_command.h"

#include <QFileInfo>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QTextStream>

#include "app/desks/compare/compare_desk.h"
#include "app/shell/command_words.h"
#include "app/shell/named_lap.h"
#include "app/shell/screenshots.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"
#include "core/base/file_io.h"

namespace rendak::app {
int plot_command(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription(QStringLiteral("A picture of laps on traces, without a window."));
    parser.addHelpOption();
    const auto library_option = add_option(parser, "library", "Folder of the library.", "DIR");
    const auto laps_option =
        add_option(parser, "laps", "Laps, A first: RUN:LAP, RUN:best or RUN:run, separated by commas.", "LAPS");
    const auto page_option =
        add_option(parser, "page", "Page of lanes: a ready-made one or one of the library's.", "NAME");
    const auto channels_option = add_option(
        parser, "channels", "Instead of a page: channels, lanes separated by commas, channels of a lane by +.", "IDS");
    const auto range_option =
        add_option(parser, "range", "Metres of track, or on the run axis seconds from A's line: FROM-TO.", "RANGE");
    const auto axis_option = add_option(parser, "axis", "distance, time or run.", "AXIS", "distance");
    const auto size_option = add_option(parser, "size", "Width and height in pixels.", "WIDTHxHEIGHT", "1280x800");
    const auto out_option = add_option(parser, "out", "What to write: .png, .svg, .pdf, or the data as .csv.", "FILE");
    const QCommandLineOption garage(QStringLiteral("garage"), QStringLiteral("In the dark theme."));
    const QCommandLineOption imperial(QStringLiteral("imperial"), QStringLiteral("In mph, psi, °F and inches."));
    parser.addOption(garage);
    parser.addOption(imperial);
    parser.process(arguments);
    for (const auto* needed : {&library_option, &laps_option, &out_option}) {
        if (!parser.isSet(*needed))
            return complain("plot", QStringLiteral("--%1 is missing.").arg(needed->names().first()));
    }
    auto library = Library::open(parser.value(library_option).toStdString(), Library::Open::existing);
    if (!library) return complain("plot", QString::fromStdString(library.error().text()));
    FocusState state;
    const QStringList wanted = parser.value(laps_option).split(u',', Qt::SkipEmptyParts);
    for (const QString& text : wanted) {
        QString why;
        const auto lap = named_lap(**library, text, why);
        if (!lap) return complain("plot", why);
        state.laps.push_back(*lap);
    }
    if (state.laps.empty() || state.laps.size() > most_laps)
        return complain("plot", QStringLiteral("Name one to %1 laps.").arg(most_laps));
    state.active_slot = state.laps.size() > 1 ? 1 : 0;
    const QString axis = parser.value(axis_option);
    if (axis != QLatin1String("distance") && axis != QLatin1String("time") && axis != QLatin1String("run"))
        return complain("plot", QStringLiteral("--axis is distance, time or run."));
    state.axis = axis == QLatin1String("run") ? Axis::run : axis == QLatin1String("time") ? Axis::time : Axis::distance;
    if (parser.isSet(range_option)) {
        const QStringList ends = parser.value(range_option).split(u'-');
        bool first = false, second = false;
        const Interval range{ends.value(0).toDouble(&first), ends.value(1).toDouble(&second)};
        if (ends.size() != 2 || !first || !second || !(range.length() > 0))
            return complain("plot", QStringLiteral("--range is FROM-TO, in that order."));
        (state.axis == Axis::run ? state.run_range_s : state.range_m) = range;
    }
    const QStringList size = parser.value(size_option).split(u'x');
    const QSize pixels(size.value(0).toInt(), size.value(1).toInt());
    if (size.size() != 2 || pixels.width() < 320 || pixels.height() < 200 || pixels.width() > 8000 ||
        pixels.height() > 8000)
        return complain("plot", QStringLiteral("--size is WIDTHxHEIGHT, from 320x200 to 8000x8000."));

    // The same whatever the person prefers who runs it.
    const QTemporaryDir no_preferences;
    qputenv("RENDAK_SETTINGS", no_preferences.filePath(QStringLiteral("settings")).toUtf8());
    keep_text_plain();
    set_imperial_units(parser.isSet(imperial));
    apply_theme(parser.isSet(garage));
    // No window: nothing is watched, checked or imported beside the painting.
    const auto session = std::make_shared<Session>(std::move(*library));
    Workspace workspace(session, std::make_shared<Selection>(*session));
    CompareDesk desk(workspace);
    if (parser.isSet(page_option)) {
        if (!desk.pages().names().contains(parser.value(page_option)))
            return complain("plot",
                            QStringLiteral("There is no page \"%1\". There are: %2.")
                                .arg(parser.value(page_option), desk.pages().names().join(QStringLiteral(", "))));
        desk.show_page(parser.value(page_option));
    }
    workspace.focus().set_state(state);
    if (!wait_until_idle(workspace, 600)) return complain("plot", QStringLiteral("The laps took too long to read."));
    if (parser.isSet(channels_option)) {
        std::vector<Lane> lanes;
        const QStringList texts = parser.value(channels_option).split(u',', Qt::SkipEmptyParts);
        for (const QString& text : texts) {
            Lane lane;
            for (const QString& id : text.split(u'+', Qt::SkipEmptyParts)) {
                if (!workspace.comparison().offers(id.toStdString()))
                    return complain("plot", QStringLiteral("No lap has a channel \"%1\".").arg(id));
                if (lane.quantity.empty())
                    lane.quantity = id.toStdString();
                else
                    lane.more.push_back(id.toStdString());
            }
            if (!lane.quantity.empty()) lanes.push_back(std::move(lane));
        }
        if (lanes.empty()) return complain("plot", QStringLiteral("--channels names none."));
        desk.canvas().set_lanes(std::move(lanes));
        if (!wait_until_idle(workspace, 600))
            return complain("plot", QStringLiteral("The channels took too long to compute."));
    }
    const ComparedLaps& laps = workspace.comparison().laps();
    QStringList problems;
    for (const QString& problem : laps.problems) problems << problem;
    if (laps.laps.size() != state.laps.size())
        return complain("plot",
                        problems.isEmpty() ? QStringLiteral("The laps could not be compared.") : problems.join(u' '));
    ViewOut view = desk.canvas().out(QStringLiteral("Traces"));
    view.size = pixels;
    const QString file = parser.value(out_option);
    Result<void> done;
    if (!file.endsWith(QLatin1String(".csv"), Qt::CaseInsensitive)) {
        done = write_picture(view, file.toStdString());
    } else if (const auto text = data_of(view)) {
        done = write_file(file.toStdString(), *text);
    } else {
        done = pass_on(text.error());
    }
    if (!done) return complain("plot", QString::fromStdString(done.error().text()));
    const QJsonObject told{{QStringLiteral("file"), QFileInfo(file).absoluteFilePath()}};
    QTextStream(stdout) << QString::fromUtf8(QJsonDocument(told).toJson(QJsonDocument::Compact)) << "\n";
    return 0;
}

}  // namespace rendak::app
