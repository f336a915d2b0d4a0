#pragma once

#include <QPainter>
#include <QStringList>
#include <memory>

#include "core/analysis/overview.h"
#include "core/library/rows.h"

namespace rendak::app {

/// What stands on the one page about two laps, or two sets of laps.
struct OverviewTold {
    std::shared_ptr<const Track> track;
    QString a_name, b_name;    ///< "A Run 2, 8 laps"
    QStringList a_who, b_who;  ///< driver and car, tyres, weather, time
    QStringList not_the_same;  ///< what is noted of the runs
    LapOverview overview;
    int b_slot = 1;
};
[[nodiscard]] OverviewTold overview_told(std::span<const PreparedLap> a, std::span<const PreparedLap> b,
                                         const LapStory& story, const RunRow& run_a, const RunRow& run_b,
                                         const QString& a_name, const QString& b_name, const WordUnits& names);

/// The page laid out in a width: painted alike in the window, as picture and on paper.
class OverviewPage {
  public:
    OverviewPage(std::shared_ptr<const OverviewTold> told, int width);
    [[nodiscard]] int height() const { return height_; }
    void paint(QPainter& painter) const;
    /// A line of it that is about a place.
    struct Line {
        enum class Kind { name, text, heading, sector, section, words, first };
        Kind kind = Kind::words;
        QString text;
        int corner = 0;
        double at_m = 0;
        std::size_t row = 0;  ///< of a sector or section
        QRect area;
    };
    [[nodiscard]] const std::vector<Line>& lines() const { return lines_; }
    [[nodiscard]] QString data_text() const;

  private:
    void add(Line::Kind kind, const QString& text, int corner = 0, double at_m = 0);
    void paint_row(QPainter& painter, const Line& line, const SideSection& row, double most_s) const;

    std::shared_ptr<const OverviewTold> told_;
    int width_, height_ = 0;
    std::vector<Line> lines_;
};

}  // namespace rendak::app
