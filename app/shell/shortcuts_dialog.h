#pragma once

#include <QDialog>
#include <QKeySequence>
#include <vector>

class QAction;
class QKeySequenceEdit;
class QLabel;
class QLineEdit;
class QPushButton;
class QTreeWidget;

namespace rendak::app {

class MainWindow;

/// Gives the actions of a window the keys that the person has chosen.
void use_own_keys(MainWindow& window);

/// All keys: searched by typing, changed, and told when two acts in one place ask for the same.
class ShortcutsDialog : public QDialog {
    Q_OBJECT
  public:
    explicit ShortcutsDialog(MainWindow& window);
    [[nodiscard]] QLineEdit& filter() { return *filter_; }
    [[nodiscard]] QTreeWidget& list() { return *list_; }
    [[nodiscard]] QLabel& told() { return *told_; }
    /// Gives a row's act a key instead of those it has; one that something else has in the same place is refused, and
    /// said. An empty key: none.
    bool set_key(int row, const QKeySequence& key);
    void set_as_it_came(int row);

  private:
    struct Row {
        QAction* action;
        QString place;  ///< a desk's title; empty: everywhere
    };
    void fill();
    void show_row();
    /// What has this key where the row's act is heard.
    [[nodiscard]] const Row* holder_of(const QKeySequence& key, const Row& besides) const;

    MainWindow& window_;
    std::vector<Row> rows_;
    QLineEdit* filter_;
    QTreeWidget* list_;
    QKeySequenceEdit* key_;
    QPushButton *set_, *none_, *came_;
    QLabel* told_;
};

}  // namespace rendak::app
