#include "app/jobs/jobs.h"
#include "app/jobs/wait_until.h"

#include <gtest/gtest.h>

#include <QCoreApplication>
#include <thread>

using namespace rendak;
using namespace rendak::app;

namespace {

void wait_idle(Jobs& jobs) {
    ASSERT_TRUE(wait_until([&] { return jobs.idle(); }));
}

}  // namespace

TEST(Jobs, ResultsArriveOnceOnTheGuiThread) {
    Jobs jobs;
    int arrived = 0;
    std::thread::id worker, receiver;
    jobs.run<int>(
        QStringLiteral("adding"),
        [&](const JobContext&) -> Result<int> {
            worker = std::this_thread::get_id();
            return 40 + 2;
        },
        [&](Result<int> result) {
            ++arrived;
            EXPECT_EQ(*result, 42);
            receiver = std::this_thread::get_id();
        });
    EXPECT_EQ(arrived, 0) << "never in the middle of the caller";
    wait_idle(jobs);
    EXPECT_EQ(arrived, 1);
    EXPECT_EQ(receiver, std::this_thread::get_id());
    EXPECT_NE(worker, receiver);
}

TEST(Jobs, ShowProgressAndCanBeCancelled) {
    Jobs jobs;
    std::optional<ErrorCode> code;
    jobs.run<int>(
        QStringLiteral("counting"),
        [](const JobContext& job) -> Result<int> {
            for (int i = 0; i < 5000; ++i) {
                if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.");
                job.report(i / 5000.0);
                std::this_thread::sleep_for(std::chrono::milliseconds(2));
            }
            return 1;
        },
        [&](Result<int> result) { code = result ? ErrorCode::io : result.error().code; });
    ASSERT_TRUE(wait_until([&] { return jobs.oldest().progress >= 0.004; }));
    EXPECT_EQ(jobs.oldest().title, QStringLiteral("counting"));
    EXPECT_GT(jobs.oldest().progress, 0);
    jobs.cancel_all();
    wait_idle(jobs);
    EXPECT_EQ(code, ErrorCode::cancelled);
}

TEST(Jobs, AJobMayStartTheNext) {
    Jobs jobs;
    int last = 0;
    const auto one = [](const JobContext&) -> Result<int> { return 1; };
    jobs.run<int>(QStringLiteral("first"), one, [&](const Result<int>&) {
        jobs.run<int>(QStringLiteral("second"), one, [&](const Result<int>&) { last = 2; });
    });
    wait_idle(jobs);
    EXPECT_EQ(last, 2);
}
