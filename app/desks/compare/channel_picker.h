#pragma once

#include <QFrame>
#include <vector>

class QLabel;
class QLineEdit;
class QTreeWidget;
class QTreeWidgetItem;

namespace rendak::app {

/// Which channels have a lane: a list that is searched by typing, grouped, with unit and rate. It stays open while
/// channels are ticked; the star keeps a channel at hand at the top. What the page wants and these runs have not
/// logged is named, with what could stand in.
class ChannelPicker : public QFrame {
    Q_OBJECT
  public:
    struct Entry {
        std::string id;
        QString group, label, unit, rate;
        bool drawn = false;
        bool here = true;          ///< these runs have it
        std::string instead = {};  ///< of one that they lack: what a tick draws in its place; empty: nothing could
        QString note = {};         ///< shown as its tip
    };

    explicit ChannelPicker(QWidget* parent = nullptr);
    /// The list as it is now; what is typed and where the selection is stay.
    void set_entries(std::vector<Entry> entries, QStringList favourites);
    void open_at(QPoint bottom_right);

    [[nodiscard]] QTreeWidget& list() { return *list_; }
    [[nodiscard]] QLineEdit& filter() { return *filter_; }

  Q_SIGNALS:
    void toggled(const std::string& id, bool drawn);
    void favourites_changed(const QStringList& ids);

  protected:
    bool eventFilter(QObject* object, QEvent* event) override;

  private:
    enum Column { name, unit, rate, star, column_count };
    void fill();
    void add_item(QTreeWidgetItem* group, const Entry& entry);
    void toggle(QTreeWidgetItem* item);
    void toggle_star(QTreeWidgetItem* item);

    QLineEdit* filter_;
    QTreeWidget* list_;
    QLabel* foot_;
    std::vector<Entry> entries_;
    QStringList favourites_;
    bool filling_ = false;
};

}  // namespace rendak::app
