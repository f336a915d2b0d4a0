#include "app/workspace/workspace.h"

namespace rendak::app {

Workspace::Workspace(std::shared_ptr<Session> session, std::shared_ptr<Selection> selection, QObject* parent)
    : QObject(parent), session_(std::move(session)), selection_(std::move(selection)) {
    connect(session_.get(), &Session::changed, this, [this](Change change) {
        if (change == Change::formulas) Q_EMIT formulas_changed();
        if (change == Change::papers || change == Change::recordings) Q_EMIT runs_changed();
    });
}

}  // namespace rendak::app
