#pragma once

#include <QWidget>
#include <array>
#include <vector>

class QButtonGroup;
class QLabel;
class QLineEdit;
class QTreeWidget;
class QTreeWidgetItem;

namespace rendak::app {

/// Everything a formula can name: channels, functions with their help, constants of the car sheet. Enter or a double
/// click puts it into the formula.
class NamePicker : public QWidget {
    Q_OBJECT
  public:
    enum Kind { channels, functions, constants };
    struct Entry {
        QString group, name, detail, help;
        QString inserted;  ///< what is put into the formula
    };

    explicit NamePicker(QWidget* parent = nullptr);
    void set_entries(Kind kind, std::vector<Entry> entries);
    void show_kind(Kind kind);
    [[nodiscard]] QTreeWidget& list() { return *list_; }
    [[nodiscard]] QLineEdit& filter() { return *filter_; }

  Q_SIGNALS:
    void chosen(const QString& text);

  private:
    void fill();
    void choose(QTreeWidgetItem* item);

    QButtonGroup* kinds_;
    QLineEdit* filter_;
    QTreeWidget* list_;
    QLabel* help_;
    std::array<std::vector<Entry>, 3> entries_;
};

}  // namespace rendak::app
