#pragma once

#include <QWidget>

#include "app/desks/compare/beside.h"
#include "app/desks/compare/pages.h"
#include "app/plot/map_canvas.h"
#include "app/plot/trace_canvas.h"
#include "app/workspace/workspace.h"

class QComboBox;

namespace rendak::app {

/// One picture of Compare in a window of its own, for another screen: the traces of a page, the map, or what can stand
/// beside the traces. It has the laps, range and cursor of the window that it came from, and goes with it.
class PictureWindow : public QWidget {
    Q_OBJECT
  public:
    enum class Shows { traces, map, beside };
    static constexpr int kinds = 3;
    [[nodiscard]] static QString name_of(Shows shows);

    PictureWindow(Workspace& workspace, const Pages& pages, Shows shows, QWidget* parent);

    [[nodiscard]] Shows shows() const { return shows_; }
    void show_page(const QString& name);
    // What it shows; null in a window of another kind.
    [[nodiscard]] TraceCanvas* canvas() { return canvas_; }
    [[nodiscard]] MapCanvas* map() { return map_; }
    [[nodiscard]] Beside* beside() { return beside_; }

    /// Kind, place on the screen and choices, as text that opened() understands.
    [[nodiscard]] QString state() const;
    /// A window as it was; null where the text is of no such window.
    static PictureWindow* opened(Workspace& workspace, const Pages& pages, const QString& state, QWidget* parent);

  private:
    QWidget* build_traces();
    QWidget* build_map();
    void add_keys();
    [[nodiscard]] QString choice() const;
    void choose(const QString& choice);

    Workspace& workspace_;
    const Pages& pages_;
    std::vector<Lane> of_page_;  ///< as the page gave them to these laps
    Shows shows_;
    TraceCanvas* canvas_ = nullptr;
    MapCanvas* map_ = nullptr;
    Beside* beside_ = nullptr;
    QComboBox *page_ = nullptr, *view_ = nullptr;
};

}  // namespace rendak::app
