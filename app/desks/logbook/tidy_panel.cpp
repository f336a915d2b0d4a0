#include "app/desks/logbook/tidy_panel.h"

#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "app/text/plain_text.h"
#include "app/text/shown.h"
#include "app/theme/theme.h"

namespace rendak::app {

TidyPanel::TidyPanel(Workspace& workspace, QWidget* parent)
    : QWidget(parent), workspace_(workspace), looking_(workspace.jobs()) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 4, 0, 0);
    title_ = new PlainLabel;
    title_->setObjectName(QStringLiteral("tidy-title"));
    title_->setFont(number_font());
    title_->setWordWrap(true);
    column->addWidget(title_);
    auto* area = new QScrollArea(this);
    area->setWidgetResizable(true);
    area->setFrameShape(QFrame::NoFrame);
    auto* inside = new QWidget(area->viewport());
    list_ = new QVBoxLayout(inside);
    list_->setContentsMargins(0, 0, 6, 0);
    list_->setSpacing(8);
    list_->addStretch();
    area->setWidget(inside);
    column->addWidget(area, 1);
}

void TidyPanel::show_run(RunId run) {
    run_ = run;
    looked_at_ = {};
    if (isVisible()) look();
}

void TidyPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    if (looked_at_ != run_) look();
}

void TidyPanel::look() {
    // Who steps through runs does not wait for those left behind.
    looking_.drop();
    findings_.clear();
    fill();
    if (!run_) return;
    title_->setText(tr("Looking the run over …"));
    looked_at_ = run_;
    looking_.run<std::vector<Finding>>(
        tr("Looking the run over"),
        [folder = workspace_.library().folder(), run = run_](const JobContext& job) -> Result<std::vector<Finding>> {
            auto library = Library::open(folder, Library::Open::existing);
            if (!library) return pass_on(library.error());
            return tidy(**library, run, job);
        },
        [this](Result<std::vector<Finding>> found) {
            if (!found) {
                title_->setText(QString::fromStdString(found.error().message));
                return;
            }
            findings_ = std::move(*found);
            fill();
        });
}

void TidyPanel::fill() {
    while (list_->count() > 1) {
        QLayoutItem* item = list_->takeAt(0);
        delete item->widget();
        delete item;
    }
    int open = 0;
    for (const Finding& finding : findings_) {
        open += !finding.accepted;
        auto* card = new QFrame;
        card->setProperty("role", QStringLiteral("panel"));
        auto* column = new QVBoxLayout(card);
        column->setContentsMargins(8, 6, 8, 6);
        auto* text = new PlainLabel(QString::fromStdString(finding.what));
        text->setWordWrap(true);
        text->setTextInteractionFlags(Qt::TextSelectableByMouse);
        if (finding.accepted) text->setProperty("role", QStringLiteral("mute"));
        column->addWidget(text);
        auto* row = new QHBoxLayout;
        if (finding.apply) {
            auto* cure = new QPushButton(QString::fromStdString(finding.cure));
            cure->setObjectName(QStringLiteral("cure-") + QString::fromStdString(finding.id));
            cure->setProperty("primary", !finding.accepted && !finding.is_alternative);
            connect(cure, &QPushButton::clicked, this, [this, finding] { this->cure(finding); });
            row->addWidget(cure);
        }
        auto* accept = new QPushButton(finding.accepted ? tr("Open it again") : tr("Fine as it is"));
        accept->setObjectName(QStringLiteral("accept-") + QString::fromStdString(finding.id));
        connect(accept, &QPushButton::clicked, this, [this, finding] { this->accept(finding); });
        row->addWidget(accept);
        row->addStretch();
        column->addLayout(row);
        list_->insertWidget(list_->count() - 1, card);
    }
    title_->setText(!run_               ? tr("No run selected")
                    : findings_.empty() ? tr("Nothing to tidy: this run is in order.")
                    : open == 0         ? tr("All is accepted as it is.")
                                        : tr("%1 to look at").arg(counted(open, tr("thing"), tr("things"))));
    if (looked_at_) Q_EMIT looked(run_, open);
}

void TidyPanel::cure(const Finding& finding) {
    looked_at_ = {};
    workspace_.edit_in_background(
        QString::fromStdString(finding.cure),
        [apply = finding.apply](Library& library, const JobContext&) { return apply(library); },
        [undo = finding.undo](Library& library, const JobContext&) { return undo(library); });
}

void TidyPanel::accept(const Finding& finding) {
    looked_at_ = {};
    const auto set = [this, run = run_, id = finding.id](bool accepted) {
        return workspace_.library().set_accepted(run, id, accepted);
    };
    workspace_.edit(
        tr("acceptance"), [set, now = !finding.accepted] { return set(now); },
        [set, before = finding.accepted] { return set(before); }, Change::papers);
}

}  // namespace rendak::app
