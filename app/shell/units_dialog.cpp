#include "app/shell/units_dialog.h"

#include <QDialogButtonBox>
#include <QFormLayout>

#include "app/session/preferences.h"
#include "app/shell/main_window.h"
#include "app/text/plain_text.h"
#include "app/text/shown.h"

namespace rendak::app {

UnitsDialog::UnitsDialog(MainWindow& window) : QDialog(&window) {
    setWindowTitle(tr("Units by quantity"));
    setObjectName(QStringLiteral("units"));
    auto* form = new QFormLayout(this);
    auto* hint = new PlainLabel(tr("As it comes: what the preset says (View: metric, or mph, psi, °F, inches)."));
    hint->setWordWrap(true);
    form->addRow(hint);
    for (const UnitKind& kind : unit_kinds()) {
        auto* box = new QComboBox;
        box->setAccessibleName(kind.name);
        box->addItem(tr("as it comes"), QString());
        for (const QString& unit : kind.choices) box->addItem(unit, unit);
        const int now = box->findData(own_units().contains(kind.metric) ? own_units().at(kind.metric) : QString());
        box->setCurrentIndex(std::max(0, now));
        connect(box, &QComboBox::currentIndexChanged, this, [box, metric = kind.metric, &window] {
            set_own_unit(metric, box->currentData().toString());
            Preferences::of_person().keep_shown();
            window.repaint_all();
        });
        boxes_[kind.metric] = box;
        form->addRow(kind.name, box);
    }
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
    form->addRow(buttons);
}

}  // namespace rendak::app
