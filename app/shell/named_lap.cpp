#include "app/shell/named_lap.h"

#include <QStringList>

#include "core/laps/cut.h"

namespace rendak::app {

std::optional<LapRef> named_lap(Library& library, const QString& text, QString& why) {
    const QStringList parts = text.trimmed().split(u':');
    bool fine = parts.size() == 2;
    const RunId run{fine ? parts[0].toLongLong(&fine) : 0};
    if (!fine) {
        why = QStringLiteral("\"%1\" names no lap. Write RUN:LAP, RUN:best or RUN:run.").arg(text);
        return std::nullopt;
    }
    const auto laps = library.laps(run);
    if (!laps || laps->empty()) {
        why = QStringLiteral("There is no run %1 with laps in this library.").arg(parts[0]);
        return std::nullopt;
    }
    if (parts[1] == QLatin1String("run")) return LapRef{run, whole_run};
    if (parts[1] == QLatin1String("best")) {
        const Lap* best = best_lap(*laps);
        if (best != nullptr) return LapRef{run, best->number};
        why = QStringLiteral("Run %1 has no lap that counts.").arg(parts[0]);
        return std::nullopt;
    }
    const int number = parts[1].toInt(&fine);
    for (const Lap& lap : *laps) {
        if (fine && lap.number == number) return LapRef{run, number};
    }
    why = QStringLiteral("Run %1 has no lap %2.").arg(parts[0], parts[1]);
    return std::nullopt;
}

}  // namespace rendak::app
