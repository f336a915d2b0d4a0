#pragma once

#include "app/desks/guide/guide_page.h"
#include "app/desks/guide/guide_road.h"
#include "app/desks/guide/limit_picture.h"
#include "app/workspace/desk.h"

class QButtonGroup;
class QLabel;
class QStackedLayout;
class QStackedWidget;
class QTableWidget;

namespace rendak::app {

/// Round the track corner by corner, from one lap alone: what each corner is, how the lap drives it and what matters
/// there, as pictures and in words; what the lap leaves unused.
class GuideDesk : public Desk {
    Q_OBJECT
  public:
    explicit GuideDesk(Workspace& workspace, QWidget* parent = nullptr);

    void take_focus() override;
    void show_pictures(PictureBook& book) override;
    void show_corner(std::size_t corner);
    void step_corner(int by);
    [[nodiscard]] std::size_t corner() const { return corner_; }
    [[nodiscard]] std::shared_ptr<const GuideData> guide() const { return data_; }
    [[nodiscard]] QTableWidget& table() { return *table_; }
    [[nodiscard]] GuideRoad& road() { return *road_; }
    [[nodiscard]] GuidePage& page() { return *page_; }
    [[nodiscard]] QString headline() const;
    [[nodiscard]] QString foot() const;
    [[nodiscard]] LimitPicture& limit() { return *limit_; }
    /// On the right: the corner, or the limit that was seen.
    void show_limit(bool on);
    /// Lets a corner count for the limit that would be left out, and back.
    void put_back(int corner);
    /// Writes the booklet in the background.
    void print_to(const QString& file);

  protected:
    void showEvent(QShowEvent* event) override;
    void changeEvent(QEvent* event) override;

  private:
    QWidget* build_full();
    QWidget* build_empty();
    void refresh();
    void take_over(std::shared_ptr<const GuideData> guide);
    void fill_table();
    void find_quickest();
    void open_in_compare();

    QStackedLayout* stack_;
    QLabel *headline_, *sub_, *foot_, *empty_text_;
    GuideRoad* road_;
    GuidePage* page_;
    LimitPicture* limit_;
    QStackedWidget* right_;
    QTableWidget* table_;
    QButtonGroup *views_, *pages_;
    std::set<int> put_back_;
    std::shared_ptr<const GuideData> data_;
    std::shared_ptr<const ComparedLaps> of_;
    QString units_;
    std::size_t corner_ = 0;
    Latest working_, printing_, finding_;
    bool stale_ = true;
};

}  // namespace rendak::app
