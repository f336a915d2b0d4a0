#include "app/text/plain_text.h"

#include <QAbstractItemView>
#include <QApplication>
#include <QHeaderView>
#include <QHelpEvent>
#include <QToolTip>

namespace rendak::app {
namespace {

/// What a tooltip must be given to show `text` as it is.
QString as_tooltip(const QString& text) {
    return Qt::mightBeRichText(text) ? Qt::convertFromPlainText(text) : text;
}

class PlainTextFilter : public QObject {
  public:
    using QObject::QObject;

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override {
        if (event->type() == QEvent::Polish) {
            auto* label = qobject_cast<QLabel*>(watched);
            if (label != nullptr && label->textFormat() == Qt::AutoText) label->setTextFormat(Qt::PlainText);
            return false;
        }
        if (event->type() != QEvent::ToolTip) return false;
        auto* widget = qobject_cast<QWidget*>(watched);
        if (widget == nullptr) return false;
        const auto* help = static_cast<QHelpEvent*>(event);
        QString text = widget->toolTip();
        if (auto* view = qobject_cast<QAbstractItemView*>(widget->parent());
            view != nullptr && view->viewport() == widget) {
            const auto* header = qobject_cast<QHeaderView*>(view);
            const QString of_item =
                header == nullptr ? view->indexAt(help->pos()).data(Qt::ToolTipRole).toString()
                : view->model() == nullptr
                    ? QString()
                    : view->model()
                          ->headerData(header->logicalIndexAt(help->pos()), header->orientation(), Qt::ToolTipRole)
                          .toString();
            if (!of_item.isEmpty()) text = of_item;
        }
        if (!Qt::mightBeRichText(text)) return false;
        QToolTip::showText(help->globalPos(), as_tooltip(text), widget);
        return true;
    }
};

}  // namespace

void keep_text_plain() {
    static auto* filter = [] {
        auto* made = new PlainTextFilter(qApp);
        qApp->installEventFilter(made);
        return made;
    }();
    (void)filter;
}

}  // namespace rendak::app
