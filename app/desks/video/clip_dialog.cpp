#include "app/desks/video/clip_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QPushButton>

#include "app/film/clip.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"

namespace rendak::app {

ClipDialog::ClipDialog(const Known& known, QWidget* parent) : QDialog(parent), known_(known) {
    setWindowTitle(tr("Write a clip"));
    auto* form = new QFormLayout(this);
    laps_ = new QComboBox;
    laps_->setObjectName(QStringLiteral("clip-laps"));
    laps_->addItem(tr("the chosen lap"));
    if (known.two)
        laps_->addItems({tr("both laps, one after another"), tr("both laps beside each other, at the same place")});
    part_ = new QComboBox;
    part_->setObjectName(QStringLiteral("clip-part"));
    part_->addItem(tr("the whole lap"), 0);
    if (known.range_s > 0 && known.range_s < known.lap_s - 0.5) part_->addItem(tr("the range"), 1);
    if (!known.corner.isEmpty()) part_->addItem(known.corner, 2);
    lead_ = new QDoubleSpinBox;
    lead_->setRange(0, 20);
    lead_->setDecimals(1);
    lead_->setValue(2);
    lead_->setSuffix(tr(" s"));
    size_ = new QComboBox;
    size_->setObjectName(QStringLiteral("clip-size"));
    size_->addItem(tr("as it was filmed, %1 × %2").arg(known.film.width()).arg(known.film.height()), QSize());
    for (const int height : {1080, 720, 360}) {
        if (known.film.height() <= height) continue;
        const QSize size(known.film.width() * height / std::max(1, known.film.height()), height);
        size_->addItem(QStringLiteral("%1 × %2").arg(size.width()).arg(size.height()), size);
    }
    told_ = new PlainLabel;
    form->addRow(tr("Shows"), laps_);
    form->addRow(tr("Of"), part_);
    form->addRow(tr("Begins before it by"), lead_);
    form->addRow(tr("Size"), size_);
    form->addRow(told_);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Save | QDialogButtonBox::Cancel);
    buttons->button(QDialogButtonBox::Save)->setText(tr("Write …"));
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    form->addRow(buttons);
    for (QComboBox* it : {laps_, part_, size_})
        connect(it, &QComboBox::currentIndexChanged, this, &ClipDialog::tell_size);
    connect(lead_, &QDoubleSpinBox::valueChanged, this, &ClipDialog::tell_size);
    tell_size();
}

VideoDesk::Clip ClipDialog::clip() const {
    VideoDesk::Clip out;
    out.both = laps_->currentIndex() > 0;
    out.beside = laps_->currentIndex() == 2;
    const int part = part_->currentData().toInt();
    if (part == 1) out.range_m = known_.range_m;
    if (part == 2) out.range_m = known_.corner_m;
    out.lead_s = lead_->value();
    out.size = size_->currentData().toSize();
    return out;
}

void ClipDialog::tell_size() {
    const VideoDesk::Clip wish = clip();
    const int part = part_->currentData().toInt();
    double seconds = (part == 0 ? known_.lap_s : part == 1 ? known_.range_s : known_.corner_s) + wish.lead_s;
    QSize size = wish.size.isEmpty() ? known_.film : wish.size;
    if (wish.beside) size.rwidth() *= 2;
    if (wish.both && !wish.beside) seconds *= 2;
    told_->setText(
        tr("About %1 s, about %2 MB. H.264 and AAC, which play anywhere, where this computer has encoders for them.")
            .arg(seconds, 0, 'f', 0)
            .arg(std::max(0.1, expected_clip_bytes(size, known_.frames_per_s, seconds) / 1e6), 0, 'f', 1));
}

}  // namespace rendak::app
