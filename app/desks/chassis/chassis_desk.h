#pragma once

#include <array>

#include "app/desks/chassis/chassis_look.h"
#include "app/focus/comparison.h"
#include "app/workspace/desk.h"

class QButtonGroup;
class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QPushButton;
class QStackedLayout;
class QTableWidget;

namespace rendak::app {

/// What the car does on its springs, and what changes of it did: ride height, damper speeds, spectra, ladders, balance,
/// pull, trials. Of A's run, with the run of the active lap (or the next one on the tray) held against it.
class ChassisDesk : public Desk {
    Q_OBJECT
  public:
    explicit ChassisDesk(Workspace& workspace, QWidget* parent = nullptr);

    void take_focus() override;
    void show_pictures(PictureBook& book) override;
    [[nodiscard]] QString state() const override;
    void restore(const QString& state) override;

    void show_page(ChassisPage page);
    [[nodiscard]] QString headline() const;
    [[nodiscard]] QString foot() const;
    [[nodiscard]] const ChassisPicture& picture(std::size_t which) const { return *pictures_[which]; }
    [[nodiscard]] StretchStrip& strip() { return *strip_; }
    [[nodiscard]] QTableWidget& table(std::size_t which) { return *tables_[which]; }
    /// What is shown; null while nothing is.
    [[nodiscard]] const ChassisLook* look() const { return look_.get(); }

  protected:
    void showEvent(QShowEvent* event) override;
    void changeEvent(QEvent* event) override;

  private:
    QWidget* build_full();
    QWidget* build_tools(QWidget* parent);
    QWidget* build_empty();
    [[nodiscard]] ChassisChoice chosen() const;
    void choose();
    void choose_stretches(const std::vector<Interval>& stretches_m);
    void refresh();
    void take_over(std::shared_ptr<const ChassisLook> look);
    void fill_table(std::size_t which, const ChassisTable* table);
    void write_run_sheet();
    void keep_trial_shown();
    void decide_trial(std::int64_t id);

    QStackedLayout* stack_;
    QButtonGroup* pages_;
    QLabel *headline_, *foot_;
    QComboBox *on_, *axle_, *wheels_, *channel_, *aim_, *line_, *baseline_;
    QDoubleSpinBox *border_, *segment_, *band_from_, *band_to_;
    std::vector<std::pair<QWidget*, std::vector<ChassisPage>>> tools_;  ///< on which pages each is of use
    QPushButton *plan_, *keep_;
    StretchStrip* strip_;
    std::vector<Interval> own_m_;  ///< stretches that somebody dragged
    QString own_track_;            ///< of what they are
    std::array<ChassisPicture*, 2> pictures_{};
    std::array<QLabel*, 2> table_titles_{};
    std::array<QTableWidget*, 2> tables_{};
    std::shared_ptr<const ChassisLook> look_;
    /// What a look was made of. It keeps its runs, so that another one is never taken for one of them.
    struct MadeOf {
        std::vector<std::shared_ptr<const RunData>> runs;
        std::vector<int> places;  ///< on the tray
        QStringList words;        ///< titles and units
        ChassisChoice choice;
        bool operator==(const MadeOf&) const = default;
    };
    std::optional<MadeOf> made_of_;
    Latest working_;
};

}  // namespace rendak::app
