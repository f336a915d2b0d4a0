#include "app/desks/compare/overview_picture.h"

#include <QMouseEvent>
#include <QPainter>

#include "app/theme/theme.h"

namespace rendak::app {

OverviewPicture::OverviewPicture(Story& story, Jobs& jobs, QWidget* parent)
    : QWidget(parent), story_(story), working_(jobs) {
    setAccessibleName(tr("Overview of the two on one page"));
    connect(&story_, &Story::changed, this, &OverviewPicture::take_over);
}

void OverviewPicture::showEvent(QShowEvent* event) {
    story_.wanted_by(this);
    take_over();
    QWidget::showEvent(event);
}

void OverviewPicture::resizeEvent(QResizeEvent* event) {
    lay_out();
    QWidget::resizeEvent(event);
}

void OverviewPicture::take_over() {
    if (!isVisible()) return;
    const auto story = story_.told();
    const WordUnits names = story_.words(false);
    const QString units = QString::fromStdString(names.speed + names.length + names.b);
    if (story == of_ && units == units_) return update();
    of_ = story;
    units_ = units;
    told_.reset();
    lay_out();
    if (story == nullptr) {
        working_.drop();
        return;
    }
    working_.run<std::shared_ptr<const OverviewTold>>(
        tr("Overview"),
        [story, names, a = story_.side_name(true), b = story_.side_name(false),
         slot = story_.told_slot()](const JobContext&) -> Result<std::shared_ptr<const OverviewTold>> {
            auto out = std::make_shared<OverviewTold>(
                overview_told(story->a, story->b, story->story, story->run_a, story->run_b, a, b, names));
            out->b_slot = slot;
            return out;
        },
        [this](Result<std::shared_ptr<const OverviewTold>> found) {
            if (found)
                told_ = std::move(*found);
            else
                of_.reset();
            lay_out();
        });
}

void OverviewPicture::lay_out() {
    page_.reset();
    if (told_ != nullptr) page_.emplace(told_, width());
    setMinimumHeight(page_ ? page_->height() : 120);
    update();
}

void OverviewPicture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), theme().panel);
    if (page_) return page_->paint(painter);
    painter.setPen(theme().mute);
    painter.setFont(body_font());
    const QString words = story_.told() == nullptr ? story_.message() : tr("Being written …");
    painter.drawText(rect().adjusted(12, 12, -12, -12), Qt::AlignCenter | Qt::TextWordWrap, words);
}

void OverviewPicture::mouseReleaseEvent(QMouseEvent* event) {
    if (!page_ || of_ == nullptr) return;
    for (const OverviewPage::Line& line : page_->lines()) {
        if (!line.area.contains(event->position().toPoint())) continue;
        if (line.kind == OverviewPage::Line::Kind::sector)
            return story_.show(told_->overview.sectors[line.row].section.range_m, line.at_m);
        if (line.kind == OverviewPage::Line::Kind::section)
            return story_.show(told_->overview.both.sections[line.row].section.range_m, line.at_m);
        for (const LedgerRow& row : of_->story.ledger.rows) {
            if (line.corner != 0 && row.corner == line.corner) return story_.show(row.range_m, line.at_m);
        }
    }
}

ViewOut OverviewPicture::out(const QString& name) {
    return {name, QSize(width(), std::max(height(), minimumHeight())),
            [told = told_](QPainter& painter, QSize size) {
                painter.fillRect(QRect(QPoint(), size), theme().panel);
                if (told != nullptr) OverviewPage(told, size.width()).paint(painter);
            },
            [told = told_] { return at_hand(told == nullptr ? QString() : OverviewPage(told, 600).data_text()); }};
}

}  // namespace rendak::app
