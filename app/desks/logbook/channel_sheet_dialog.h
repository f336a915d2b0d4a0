#pragma once

#include <QDialog>
#include <optional>
#include <vector>

#include "app/workspace/workspace.h"
#include "core/intake/channel_roles.h"
#include "core/intake/channel_sheet.h"

class QCheckBox;
class QComboBox;
class QDoubleSpinBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableWidget;

namespace rendak::app {

/// Every channel of a run: what its logger calls it, what it is taken for and why, what it holds and what is wrong with
/// it. What is wrong is put right below the table, for this run or for all of its car and logger from it on.
class ChannelSheetDialog : public QDialog {
    Q_OBJECT
  public:
    ChannelSheetDialog(Workspace& workspace, const RunRow& run, QWidget* parent = nullptr);

    /// What the import could not tell: said above the table, the candidates selected, remembered unless unticked.
    void ask(const ChannelRoles::Question& question);
    void select(const std::string& channel);
    [[nodiscard]] const std::vector<ChannelLine>& lines() const { return lines_; }

  private:
    void look();
    void fill();
    void filter(const QString& text);
    void show_selected();
    [[nodiscard]] const ChannelLine* selected() const;
    [[nodiscard]] ChannelEdit edit_of_form() const;
    void apply(const ChannelEdit& edit);
    void take_zero();

    Workspace& workspace_;
    RunRow run_;
    Latest looking_, measuring_;
    std::vector<ChannelLine> lines_;
    std::string wanted_;  ///< selected once the lines are there
    QLabel* hint_;
    QLineEdit* search_;
    QTableWidget* table_;
    QLabel* title_;
    QComboBox* quantity_;
    QLineEdit* unit_;
    QDoubleSpinBox *scale_, *offset_;
    QPushButton *turn_, *zero_, *apply_, *as_logged_;
    QCheckBox* from_now_on_;
};

}  // namespace rendak::app
