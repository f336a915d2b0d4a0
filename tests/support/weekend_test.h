#pragma once

#include <gtest/gtest.h>

#include <memory>

#include "core/intake/run_data.h"
#include "tests/support/demo_data.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

namespace rendak::test {

/// A library of both days of the demo and the hill, of the whole suite, which may be edited.
class WeekendTest : public testing::Test {
  protected:
    static void SetUpTestSuite() {
        folder_ = std::make_unique<TempFolder>();
        copy_library(weekend_library(), folder_->path());
        library_ = got(Library::open(folder_->path(), Library::Open::existing));
    }
    static void TearDownTestSuite() {
        library_.reset();
        folder_.reset();
    }
    static Library& library() { return *library_; }
    static std::shared_ptr<const RunData> run(std::int64_t id) { return got(load_run(*library_, {id})); }

  private:
    static inline std::unique_ptr<TempFolder> folder_;
    static inline std::unique_ptr<Library> library_;
};

}  // namespace rendak::test
