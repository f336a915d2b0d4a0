#pragma once

#include <QWidget>

#include "app/desks/compare/change_list.h"
#include "app/desks/compare/corner_card.h"
#include "app/desks/compare/laps_picture.h"
#include "app/desks/compare/ledger_picture.h"
#include "app/desks/compare/overview_picture.h"
#include "app/desks/compare/pair_picture.h"
#include "app/desks/compare/value_panel.h"
#include "app/desks/compare/work_panel.h"
#include "app/film/films_beside.h"

class QButtonGroup;
class QComboBox;
class QDoubleSpinBox;
class QStackedWidget;

namespace rendak::app {

/// The place beside the traces, below the map: one of several answers to the laps and the range at a time.
class Beside : public QWidget {
    Q_OBJECT
  public:
    explicit Beside(Workspace& workspace, QWidget* parent = nullptr);

    enum class Picture { values, changes, circle, scatter, shares, laps, ledger, card, work, overview, film };
    static constexpr int picture_count = 11;
    /// As they stand in a row.
    static constexpr Picture in_order[picture_count] = {
        Picture::values, Picture::changes, Picture::overview, Picture::ledger, Picture::card, Picture::work,
        Picture::circle, Picture::scatter, Picture::shares,   Picture::laps,   Picture::film};
    void show_picture(Picture picture);
    void step(int by);
    [[nodiscard]] Picture picture() const;

    [[nodiscard]] ValuePanel& values() { return *values_; }
    [[nodiscard]] ChangeList& changes() { return *changes_; }
    [[nodiscard]] PairPicture& circle() { return *circle_; }
    [[nodiscard]] PairPicture& scatter() { return *scatter_; }
    [[nodiscard]] SharePicture& shares() { return *shares_; }
    [[nodiscard]] LapsPicture& laps() { return *laps_; }
    [[nodiscard]] LedgerPicture& ledger() { return *ledger_; }
    [[nodiscard]] CornerCard& card() { return *card_; }
    [[nodiscard]] WorkPanel& work() { return *work_; }
    [[nodiscard]] OverviewPicture& overview() { return *overview_; }
    [[nodiscard]] FilmsBeside& films() { return *films_; }
    [[nodiscard]] Story& story() { return *story_; }
    [[nodiscard]] WorkBook& book() { return *book_; }
    /// What is in front, to be given out.
    [[nodiscard]] ViewOut out();
    /// What it shows and what to look for, in two sentences.
    [[nodiscard]] QString help() const;
    /// The first channel of the traces: what lap after lap shows.
    void set_quantities(const std::vector<std::string>& quantities);

    [[nodiscard]] QString state() const;
    void restore(const QString& state);

  Q_SIGNALS:
    void state_changed();

  private:
    QWidget* with_tools(const QList<QWidget*>& tools, QWidget* picture);
    static QComboBox* box(const QString& name, const QStringList& choices);
    QComboBox* side_box(RangePicture& picture);
    QComboBox* channel_box(const QString& name);
    QWidget* build_circle();
    QWidget* build_scatter();
    QWidget* build_shares();
    void fill_channels();
    void take_channels();

    Comparison& comparison_;
    QButtonGroup* buttons_;
    QStackedWidget* stack_;
    ValuePanel* values_;
    ChangeList* changes_;
    PairPicture *circle_, *scatter_;
    SharePicture* shares_;
    LapsPicture* laps_;
    LedgerPicture* ledger_;
    CornerCard* card_;
    WorkPanel* work_;
    OverviewPicture* overview_;
    FilmsBeside* films_;
    Story* story_;
    WorkBook* book_;
    QComboBox *x_, *y_, *z_, *share_channel_;
    QDoubleSpinBox* step_;
    bool filling_ = false;
};

}  // namespace rendak::app
