#pragma once

#include "app/desks/compare/seen_by.h"
#include "app/desks/compare/story.h"
#include "app/workspace/workspace.h"
#include "core/intake/work_items.h"

namespace rendak::app {

/// What drivers work on, with what later runs show: read from the library on a worker whenever it changes, while
/// somebody looks at it.
class WorkBook : public QObject {
    Q_OBJECT
  public:
    explicit WorkBook(Workspace& workspace, QObject* parent = nullptr);

    [[nodiscard]] const std::vector<WorkProgress>& items() const { return items_; }
    [[nodiscard]] bool busy() const { return reading_.running() || making_.running(); }
    /// Whoever shows them asks when it is shown.
    void wanted_by(QWidget* view) {
        seen_by_.add(view);
        read();
    }

    // Edits, which can be undone:
    /// A finding becomes a work item of B's driver.
    void work_on(const LapFinding& finding, const std::shared_ptr<const ToldStory>& told);
    /// Away from the list, met or given up.
    void put_away(const WorkItem& item);

    /// "Slowest speed 78.0 km/h, to reach 84.0, next 80.0"
    [[nodiscard]] static QString text_of(const WorkProgress& work);

  Q_SIGNALS:
    void changed();

  private:
    void read();

    Workspace& workspace_;
    Latest reading_, making_;
    SeenBy seen_by_;
    bool old_ = true;  ///< what was read is not what the library has
    std::vector<WorkProgress> items_;
};

}  // namespace rendak::app
