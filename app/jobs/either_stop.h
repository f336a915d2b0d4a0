#pragma once

#include <stop_token>

#include "core/base/job.h"

namespace rendak::app {

/// A job that also stops when its owner says so, not only when all jobs are cancelled. Lives as long as the work.
class EitherStop {
  public:
    EitherStop(const JobContext& job, std::stop_token own)
        : job_(job), on_job_(job.stop, Request{&both_}), on_own_(std::move(own), Request{&both_}) {}
    EitherStop(const EitherStop&) = delete;
    EitherStop& operator=(const EitherStop&) = delete;
    [[nodiscard]] JobContext context() const { return {both_.get_token(), job_.progress}; }

  private:
    struct Request {
        std::stop_source* both;
        void operator()() const { both->request_stop(); }
    };
    JobContext job_;
    std::stop_source both_;
    std::stop_callback<Request> on_job_, on_own_;
};

}  // namespace rendak::app
