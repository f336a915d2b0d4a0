#include "app/desks/logbook/learn_track_dialog.h"
#include "app/text/plain_text.h"

#include <QDialogButtonBox>
#include <QDoubleSpinBox>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QRadioButton>

namespace rendak::app {

LearnTrackDialog::LearnTrackDialog(QWidget* parent) : QDialog(parent) {
    setWindowTitle(tr("Learn the track"));
    auto* form = new QFormLayout(this);
    auto* hint = new PlainLabel(
        tr("The line is taken from the fastest complete lap of this run. Other runs that were driven there "
           "are cut as well."));
    hint->setWordWrap(true);
    form->addRow(hint);
    name_ = new QLineEdit;
    form->addRow(tr("Name of the track"), name_);
    suggested_ = new QRadioButton(tr("Suggest a start line: a fast place that is passed every lap"));
    by_place_ = new QRadioButton(tr("Start line at this place: click on the map, or type it"));
    suggested_->setChecked(true);
    form->addRow(suggested_);
    form->addRow(by_place_);
    open_ = new QRadioButton(tr("A road from a standing start to a finish, such as a hill climb"));
    form->addRow(open_);
    const auto number = [&](const QString& label, double limit, int decimals) {
        auto* box = new QDoubleSpinBox;
        box->setRange(-limit, limit);
        box->setDecimals(decimals);
        box->setSuffix(QStringLiteral(" °"));
        form->addRow(label, box);
        return box;
    };
    map_ = new RunMap;
    map_->set_message(tr("The run is being read …"));
    map_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Expanding);
    form->addRow(map_);
    // A form does not ask for the height of its wrapped text by itself: without room the rows lie over each other.
    resize(560, 680);
    connect(map_, &RunMap::line_placed, this, [this](const StartPlace& line) {
        by_place_->setChecked(true);
        latitude_->setValue(line.place.latitude_deg);
        longitude_->setValue(line.place.longitude_deg);
        heading_->setValue(line.heading_deg);
    });
    latitude_ = number(tr("Latitude"), 90, 7);
    longitude_ = number(tr("Longitude"), 360, 7);
    heading_ = number(tr("Heading of travel (0 = north, 90 = east)"), 360, 1);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Cancel);
    learn_ = buttons->addButton(tr("Learn"), QDialogButtonBox::AcceptRole);
    learn_->setProperty("primary", true);
    form->addRow(buttons);
    connect(buttons, &QDialogButtonBox::accepted, this, &QDialog::accept);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    connect(name_, &QLineEdit::textChanged, this, &LearnTrackDialog::refresh);
    connect(by_place_, &QRadioButton::toggled, this, &LearnTrackDialog::refresh);
    for (auto* box : {latitude_, longitude_, heading_})
        connect(box, &QDoubleSpinBox::valueChanged, this, &LearnTrackDialog::refresh);
    refresh();
}

void LearnTrackDialog::set_path(std::shared_ptr<const Path> path) {
    map_->set_path(std::move(path));
}

void LearnTrackDialog::set_no_path(const QString& why) {
    map_->set_message(why);
}

void LearnTrackDialog::refresh() {
    learn_->setEnabled(!name().isEmpty());
    map_->set_line(start());
    for (auto* box : {latitude_, longitude_, heading_}) box->setEnabled(by_place_->isChecked());
}

QString LearnTrackDialog::name() const {
    return name_->text().trimmed();
}

TrackKind LearnTrackDialog::kind() const {
    return open_->isChecked() ? TrackKind::open : TrackKind::circuit;
}

std::optional<StartPlace> LearnTrackDialog::start() const {
    if (!by_place_->isChecked()) return std::nullopt;
    return StartPlace{{latitude_->value(), longitude_->value()}, heading_->value()};
}

}  // namespace rendak::app
