#include "app/shell/clip_command.h"

#include <QJsonDocument>
#include <QJsonObject>
#include <QTextStream>

#include "app/film/clip.h"
#include "app/shell/command_words.h"
#include "app/shell/named_lap.h"

namespace rendak::app {
int clip_command(const QStringList& arguments) {
    QCommandLineParser parser;
    parser.setApplicationDescription(QStringLiteral("A film of laps with figures in it, without a window."));
    parser.addHelpOption();
    const auto library_option = add_option(parser, "library", "Folder of the library.", "DIR");
    const auto laps_option =
        add_option(parser, "laps", "Laps, one after another: RUN:LAP or RUN:best, separated by commas.", "LAPS");
    const auto out_option = add_option(parser, "out", "What to write: .mp4, .mov, .mkv or .avi.", "FILE");
    const auto camera_option = add_option(parser, "camera", "Which camera.", "NAME", "forward");
    const auto from_option = add_option(parser, "from", "Place on the track in metres, with --to.", "METRES");
    const auto to_option = add_option(parser, "to", "Place on the track in metres.", "METRES");
    const auto lead_option = add_option(parser, "lead", "Seconds before it.", "SECONDS", "2");
    const auto width_option = add_option(parser, "width", "Pixels of one picture.", "PIXELS");
    const QCommandLineOption beside(QStringLiteral("beside"),
                                    QStringLiteral("Two laps beside each other, at the same place."));
    parser.addOption(beside);
    parser.process(arguments);
    for (const auto* needed : {&library_option, &laps_option, &out_option}) {
        if (!parser.isSet(*needed))
            return complain("clip", QStringLiteral("--%1 is missing.").arg(needed->names().first()));
    }
    const auto library = Library::open(parser.value(library_option).toStdString(), Library::Open::existing);
    if (!library) return complain("clip", QString::fromStdString(library.error().text()));
    std::optional<Interval> range;
    if (parser.isSet(from_option) || parser.isSet(to_option)) {
        range = Interval{parser.value(from_option).toDouble(), parser.value(to_option).toDouble()};
        if (!(range->length() > 0))
            return complain("clip", QStringLiteral("--from and --to go together, in that order."));
    }
    ClipWish wish;
    wish.file = parser.value(out_option).toStdString();
    wish.beside = parser.isSet(beside);
    QStringList texts;
    for (const QString& value : parser.values(laps_option)) texts << value.split(u',', Qt::SkipEmptyParts);
    for (const QString& text : texts) {
        QString why;
        const auto ref = named_lap(**library, text, why);
        if (!ref) return complain("clip", why);
        const auto run = load_run(**library, ref->run);
        if (!run) return complain("clip", QString::fromStdString(run.error().text()));
        const auto lap = prepare_lap(**run, ref->lap);
        if (!lap) return complain("clip", QString::fromStdString(lap.error().text()));
        auto part = clip_part(**library, parser.value(camera_option).toStdString(), *run, *lap,
                              static_cast<int>(wish.parts.size()),
                              clip_span(*lap, range, parser.value(lead_option).toDouble()));
        if (!part) return complain("clip", QString::fromStdString(part.error().text()));
        wish.parts.push_back(std::move(*part));
    }
    if (parser.isSet(width_option)) {
        const auto film = FilmReader::open(wish.parts.empty() ? std::vector<std::string>() : wish.parts.front().files);
        const int width = parser.value(width_option).toInt();
        if (!film || width < 64 || width > 4096)
            return complain("clip", QStringLiteral("--width is 64 to 4096 pixels."));
        wish.size = QSize(width, static_cast<int>(std::lround(static_cast<double>(width) * film->facts().height /
                                                              film->facts().width)));
    }
    const auto made = make_clip(wish, {});
    if (!made) return complain("clip", QString::fromStdString(made.error().text()));
    QTextStream(stdout) << QJsonDocument(
                               QJsonObject{{QStringLiteral("file"), parser.value(out_option)},
                                           {QStringLiteral("frames"), static_cast<qint64>(made->frames)},
                                           {QStringLiteral("seconds"), made->seconds},
                                           {QStringLiteral("coded_as"), QString::fromStdString(made->coded_as)},
                                           {QStringLiteral("bytes"), static_cast<qint64>(made->bytes)}})
                               .toJson();
    return 0;
}

}  // namespace rendak::app
