#pragma once

#include <QTimer>
#include <filesystem>
#include <vector>

#include "app/desks/collect/practice_logger.h"
#include "app/desks/collect/recording_table.h"
#include "app/workspace/desk.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QTableView;

namespace rendak::app {

/// From the car's logger, or a card, into the library.
class CollectDesk : public Desk {
    Q_OBJECT
  public:
    explicit CollectDesk(Workspace& workspace, QWidget* parent = nullptr);

    void connect_to(const QString& address);
    void download();
    void erase(bool asked_already = false);
    /// Adds the films that lie on the card beside the recordings; the same as the button after its questions.
    void add_films(const QString& camera, bool keep);
    [[nodiscard]] RecordingTable& recordings() { return *model_; }
    [[nodiscard]] QString state_text() const;
    [[nodiscard]] QString check_text() const;
    void take_focus() override;
    void show_pictures(PictureBook& book) override;

  private:
    struct Seen;
    QWidget* build_address();
    QWidget* build_filing();
    QWidget* build_foot();
    QWidget* build_films();
    void read_again();
    void show_seen(const Seen& seen);
    void show_states();
    void show_clocks();
    void set_clock();
    void look_for_films();
    /// Those that the library does not have.
    struct CardFilms {
        std::vector<std::vector<std::filesystem::path>> films;
        double bytes = 0;
    };
    void show_films(CardFilms found);
    void ask_films();
    void show_download();
    void refresh_buttons();
    void refresh_check_list();
    [[nodiscard]] ImportOptions filing() const;
    [[nodiscard]] double clock_shift_s() const;

    PracticeLogger practice_;
    RecordingTable* model_;
    QTableView* table_;
    QComboBox* address_;
    QLabel *state_, *clocks_, *warnings_, *progress_text_, *check_list_, *summary_;
    QPushButton *connect_, *practice_button_, *set_clock_, *download_, *cancel_, *erase_;
    QPushButton* first_look_;
    QWidget* films_line_;
    QLabel* films_text_;
    QPushButton* films_add_;
    std::vector<std::vector<std::filesystem::path>> films_;
    std::optional<RunId> latest_;  ///< that came in last
    QProgressBar* progress_;
    QLineEdit *event_, *session_, *driver_, *car_, *tyre_set_, *weather_;
    QCheckBox* shift_;
    QDoubleSpinBox* shift_minutes_;
    QTimer clock_timer_, progress_timer_;
    QString connected_to_;
    Latest reading_, listing_, filming_, adding_;
    std::optional<LoggerState> logger_;
    double logger_minus_computer_s_ = 0;
    // of the download that is going on
    std::shared_ptr<std::atomic<double>> fraction_;
    std::shared_ptr<std::atomic<std::uint64_t>> arrived_bytes_;
    Job download_job_;
    double total_bytes_ = 0, began_s_ = 0;
    bool downloading_ = false, downloaded_ = false;
};

}  // namespace rendak::app
