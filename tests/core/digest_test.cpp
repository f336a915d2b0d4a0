#include <gtest/gtest.h>

#include <fstream>

#include "core/base/growing_digest.h"
#include "core/base/sha256.h"
#include "core/base/xxh3.h"
#include "core/recording/recording_file.h"
#include "tests/support/got.h"
#include "tests/support/temp_folder.h"

using namespace rendak;
using test::got;

namespace {

/// The examples of FIPS 180-4.
constexpr const char* of_abc = "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad";
constexpr const char* of_nothing = "e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855";

void append(const std::filesystem::path& file, const std::string& bytes) {
    std::ofstream(file, std::ios::binary | std::ios::app) << bytes;
}

}  // namespace

TEST(Digest, IsThatOfTheStandard) {
    Sha256 digest;
    digest.add("a");
    digest.add("bc");
    EXPECT_EQ(digest.hex(), of_abc);
    const test::TempFolder folder;
    append(folder / "nothing", "");
    EXPECT_EQ(got(sha256_of_file(folder / "nothing")), of_nothing);
}

TEST(Digest, TheQuickOneIsThatOfItsAuthors) {
    Xxh3 digest;
    EXPECT_EQ(digest.hex(), "99aa06d3014798d86001c324468d497f") << "of nothing";
    digest.add("a");
    digest.add("bc", 2);
    EXPECT_EQ(digest.hex(), "06b05ab6733a618578af5f94892f3950");
    EXPECT_EQ(digest.hex(), "06b05ab6733a618578af5f94892f3950") << "asked once more";
    const test::TempFolder folder;
    append(folder / "abc", "abc");
    EXPECT_EQ(got(file_digest(folder / "abc")), digest.hex());
}

TEST(Digest, IsWrittenInLowerCaseHex) {
    EXPECT_TRUE(is_hex(of_abc, 64));
    EXPECT_FALSE(is_hex(of_abc, 32));
    EXPECT_TRUE(is_hex("", 0));
    for (const char* other : {"ABCD", "abcg", "ab d", "../x", "0x12"}) EXPECT_FALSE(is_hex(other, 4)) << other;
}

class GrowingFile : public testing::TestWithParam<DigestKind> {};
INSTANTIATE_TEST_SUITE_P(Digest, GrowingFile, testing::Values(DigestKind::sha256, DigestKind::xxh3));

TEST_P(GrowingFile, HasItsDigestSoonAfterItsLastByte) {
    const test::TempFolder folder;
    const auto file = folder / "part";
    // Longer than what is read at once, and no multiple of it.
    std::string whole;
    for (int k = 0; k < 700'000; ++k) whole += std::to_string(k);
    GrowingDigest along(file, 0, GetParam());
    std::size_t written = 0;
    for (const std::size_t end : {std::size_t{1}, std::size_t{70'000}, whole.size() / 2, whole.size()}) {
        append(file, whole.substr(written, end - written));
        written = end;
        along.grown_to(written);
    }
    double last = 0;
    const JobContext job{{}, [&](double share) {
                             EXPECT_GE(share, last);
                             EXPECT_LE(share, 1);
                             last = share;
                         }};
    const bool quick = GetParam() == DigestKind::xxh3;
    EXPECT_EQ(got(along.finish(job)), got(quick ? file_digest(file) : sha256_of_file(file)));
}

TEST(Digest, GoesOnWithWhatWasThereBefore) {
    const test::TempFolder folder;
    const auto file = folder / "part";
    append(file, "a");
    GrowingDigest along(file, 1);
    append(file, "bc");
    along.grown_to(3);
    EXPECT_EQ(got(along.finish()), of_abc);
    GrowingDigest nothing(folder / "never written");
    EXPECT_EQ(got(nothing.finish()), of_nothing);
}

TEST(Digest, OfAFileThatIsGoneIsAnErrorAndAnUnfinishedOneIsGivenUp) {
    const test::TempFolder folder;
    GrowingDigest gone(folder / "gone");
    gone.grown_to(3);
    const auto failed = gone.finish();
    ASSERT_FALSE(failed);
    EXPECT_NE(failed.error().text().find("gone"), std::string::npos);
    append(folder / "short", "ab");
    GrowingDigest shorter(folder / "short", 3);
    EXPECT_FALSE(shorter.finish());
    // Destroyed while it waits for more: it does not hang.
    append(folder / "part", "ab");
    const GrowingDigest waits(folder / "part", 2);
}

TEST(Digest, GrowsOnly) {
    const test::TempFolder folder;
    append(folder / "part", "abc");
    GrowingDigest along(folder / "part");
    along.grown_to(3);
    along.grown_to(1);
    EXPECT_EQ(got(along.finish()), of_abc);
}

TEST(Digest, CanBeCancelled) {
    const test::TempFolder folder;
    append(folder / "part", "abc");
    GrowingDigest along(folder / "part");
    std::stop_source stop;
    stop.request_stop();
    const auto cancelled = along.finish({stop.get_token(), {}});
    ASSERT_FALSE(cancelled);
    EXPECT_EQ(cancelled.error().code, ErrorCode::cancelled);
}
