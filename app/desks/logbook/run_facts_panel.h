#pragma once

#include <QWidget>
#include <map>

#include "app/workspace/workspace.h"

class QComboBox;
class QDateTimeEdit;
class QFormLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace rendak::app {

/// The facts of the selected runs, to be edited. What is typed applies to all of them; a field in which they differ
/// says so and stays as it is until something is typed.
class RunFactsPanel : public QWidget {
    Q_OBJECT
  public:
    explicit RunFactsPanel(Workspace& workspace, QWidget* parent = nullptr);
    void show_runs(const std::vector<RunId>& runs);

  private:
    struct Field {
        QString label;
        std::function<QString(const RunRow&)> read;
        /// False: the text cannot be understood; nothing is changed.
        std::function<bool(RunFacts&, const QString&)> write;
        QLineEdit* edit = nullptr;
    };
    void add(QFormLayout* form, const QString& label, std::string RunFacts::*member, const QString& hint = {},
             const std::function<std::vector<std::string>()>& known = {});
    void add_number(QFormLayout* form, const QString& label, std::optional<double> RunFacts::*member,
                    const QString& hint, bool is_time = false);
    void commit(Field& field);
    void set_facts(const QString& what, const std::vector<std::pair<RunId, RunFacts>>& after);
    void set_date();
    void edit_event();
    void fill_changes();
    void commit_habit();
    /// Settings key of what is known about a driver in a car on tyres of a kind.
    [[nodiscard]] static std::string habit_key(const RunRow& row);

    Workspace& workspace_;
    std::vector<RunId> runs_;
    std::vector<std::unique_ptr<Field>> fields_;
    QDateTimeEdit* date_;
    QPushButton *set_date_, *fill_;
    std::string zone_;  ///< of the event
    QLabel* event_;
    QLineEdit* habit_;
};

}  // namespace rendak::app
