#pragma once

#include <QObject>
#include <set>

#include "app/jobs/jobs.h"
#include "core/library/library.h"

namespace rendak::app {

/// Sees to it that every run is checked by the watch rules, in the background: new ones when they come in, all of them
/// when the rules change, those that are looked at when something changed that their answers rest on.
class WatchKeeper : public QObject {
    Q_OBJECT
  public:
    WatchKeeper(Library& library, Jobs& jobs);
    ~WatchKeeper() override { job_.drop(); }
    WatchKeeper(const WatchKeeper&) = delete;
    WatchKeeper& operator=(const WatchKeeper&) = delete;
    /// Runs that no rule was ever checked on.
    void check_new();
    void check_all();
    void check(const std::vector<RunId>& runs);

  Q_SIGNALS:
    /// What rules say of runs is there, or was looked at.
    void changed();

  private:
    void start();
    Library& library_;
    Jobs& jobs_;
    std::set<RunId> wanted_, failed_;
    Job job_;
};

}  // namespace rendak::app
