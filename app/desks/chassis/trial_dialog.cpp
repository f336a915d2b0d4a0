#include "app/desks/chassis/trial_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QFormLayout>
#include <QLineEdit>
#include <QPlainTextEdit>

#include "app/text/plain_text.h"

namespace rendak::app {

TrialDialog::TrialDialog(KeptTrial trial, QWidget* parent) : QDialog(parent), trial_(std::move(trial)) {
    setWindowTitle(tr("What was decided"));
    auto* form = new QFormLayout(this);
    auto* says = new PlainLabel(QString::fromStdString(trial_.says));
    says->setWordWrap(true);
    says->setMinimumWidth(420);
    form->addRow(says);
    name_ = new QLineEdit(QString::fromStdString(trial_.name));
    form->addRow(tr("What was tried"), name_);
    verdict_ = new QComboBox;
    verdict_->setObjectName(QStringLiteral("trial-verdict"));
    verdict_->setEditable(true);
    verdict_->addItems({tr("keep"), tr("take back"), tr("try again")});
    verdict_->setCurrentText(QString::fromStdString(trial_.verdict));
    form->addRow(tr("Verdict"), verdict_);
    by_ = new QLineEdit(QString::fromStdString(trial_.decided_by));
    by_->setObjectName(QStringLiteral("trial-by"));
    form->addRow(tr("Decided by"), by_);
    words_ = new QPlainTextEdit(QString::fromStdString(trial_.words));
    words_->setObjectName(QStringLiteral("trial-words"));
    words_->setPlaceholderText(tr("what driver and engineer say"));
    words_->setMaximumHeight(90);
    words_->setTabChangesFocus(true);
    form->addRow(tr("Words"), words_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    form->addRow(buttons);
}

KeptTrial TrialDialog::written() const {
    KeptTrial out = trial_;
    out.name = name_->text().trimmed().toStdString();
    out.verdict = verdict_->currentText().trimmed().toStdString();
    out.decided_by = by_->text().trimmed().toStdString();
    out.words = words_->toPlainText().trimmed().toStdString();
    return out;
}

}  // namespace rendak::app
