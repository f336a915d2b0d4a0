#include "app/jobs/jobs.h"
#include "app/jobs/wait_until.h"

#include <gtest/gtest.h>

#include <QCoreApplication>
#include <ctime>
#include <optional>
#include <thread>

#include "tests/support/register_state.h"

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

TEST(Jobs, ComputeWithClearRegistersWhateverTheWindowLeftInThem) {
    if (!rendak::test::registers_can_be_told()) GTEST_SKIP() << "this processor does not tell";
    Jobs jobs;
    std::optional<bool> in_use;
    rendak::test::use_upper_halves();
    jobs.run<bool>(
        QStringLiteral("looking"),
        [](const JobContext&) -> Result<bool> { return rendak::test::upper_halves_in_use(); },
        [&](Result<bool> result) { in_use = *result; });
    wait_idle(jobs);
    EXPECT_EQ(in_use, false);
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

TEST(WaitUntil, SleepsWhileNothingHappensAndGivesUp) {
    const auto used_s = [] {
        timespec used{};
        ::clock_gettime(CLOCK_THREAD_CPUTIME_ID, &used);
        return static_cast<double>(used.tv_sec) + 1e-9 * static_cast<double>(used.tv_nsec);
    };
    const double before_s = used_s();
    EXPECT_FALSE(wait_until([] { return false; }, 0.3));
    EXPECT_LT(used_s() - before_s, 0.1) << "what is waited for has the machine";
    // What comes from a job is seen as soon as it is there.
    Jobs jobs;
    bool come = false;
    jobs.run<int>(
        QStringLiteral("coming"), [](const JobContext&) -> Result<int> { return 1; },
        [&](const Result<int>&) { come = true; });
    EXPECT_TRUE(wait_until([&] { return come; }));
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
