#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "core/base/job.h"
#include "core/base/result.h"
#include "core/video/film_facts.h"

namespace rendak {

/// What a film and the program that decodes it share: room for a picture of 4096 × 4096, and what that program may
/// take at most.
inline constexpr std::size_t film_memory_bytes = std::size_t{64} << 20, film_memory_limit = std::size_t{3} << 30;

/// A `rendak-film` of one's own: films are decoded and encoded in that process, so that a hostile one can bring down
/// nothing else. Not for several threads at once; another thread may stop it.
class FilmLink {
  public:
    FilmLink();
    ~FilmLink();
    FilmLink(FilmLink&&) noexcept;
    FilmLink& operator=(FilmLink&&) noexcept;

    /// A question as JSON, and its answer. One that takes longer than `most_s` is stopped, and so is one that the job
    /// no longer wants; the process is started again with the next question, with nothing open.
    [[nodiscard]] Result<std::string> ask(const std::string& question, const JobContext& job = {}, double most_s = 60);
    /// What both see.
    [[nodiscard]] std::span<std::uint8_t> memory();
    /// Whether the process is the one that was there before: after a failure what was open is no longer.
    [[nodiscard]] bool alive() const;
    void stop();

  private:
    struct Process;
    std::unique_ptr<Process> process_;
};

/// The frame that is to be seen at a moment: each is from its own moment to the next one's. None before the first and
/// behind the last one.
[[nodiscard]] std::optional<std::size_t> frame_at_moment(std::span<const double> times_s, double duration_s,
                                                         double film_s);

/// A film, open for reading. Frames are told by their number.
class FilmReader {
  public:
    /// Fails with a sentence where there is no film in the files.
    [[nodiscard]] static Result<FilmReader> open(const std::vector<std::string>& files, const JobContext& job = {});

    [[nodiscard]] const FilmFacts& facts() const { return facts_; }
    /// Moment of each frame, seconds from the first one on.
    [[nodiscard]] const std::vector<double>& times_s() const { return times_s_; }
    /// The frame that is to be seen at a moment; none before the first and behind the last one.
    [[nodiscard]] std::optional<std::size_t> frame_at(double film_s) const;

    /// Blue, green, red, nothing, line after line; valid until the next question.
    [[nodiscard]] Result<std::span<const std::uint8_t>> picture(std::size_t frame, int width, int height,
                                                                const JobContext& job = {});
    /// Every `step`-th frame from `from` on, `count` of them at most, by brightness; those that are damaged repeat the
    /// one before.
    [[nodiscard]] Result<std::span<const std::uint8_t>> grey(std::size_t from, std::size_t step, std::size_t count,
                                                             int width, int height, const JobContext& job = {});
    /// Mono samples.
    [[nodiscard]] Result<std::vector<float>> sound(double from_s, double seconds, int rate_hz,
                                                   const JobContext& job = {});
    /// Writes a small copy in which every frame can be jumped to at once.
    [[nodiscard]] Result<void> copy_small(const std::string& file, int width, int height, const JobContext& job = {});

  private:
    FilmReader() = default;
    /// Asks, and opens the film again first where the process is a new one.
    [[nodiscard]] Result<std::string> ask(const std::string& question, const JobContext& job, double most_s = 60);

    FilmLink link_;
    std::vector<std::string> files_;
    FilmFacts facts_;
    std::vector<double> times_s_;
};

/// A film that is being written; what was not finished leaves no file.
class FilmWriter {
  public:
    [[nodiscard]] static Result<FilmWriter> begin(const FilmWish& wish);
    /// Where the next picture goes: blue, green, red, nothing, width · height of them.
    [[nodiscard]] std::span<std::uint8_t> pixels() { return link_.memory(); }
    /// Takes it, as the frame of that number; or so many that lie one after another there, as those that follow.
    [[nodiscard]] Result<void> put(std::int64_t at, std::size_t count = 1);
    [[nodiscard]] Result<void> put_sound(std::span<const float> mono);
    [[nodiscard]] Result<void> finish();
    /// "H.264 and AAC"
    [[nodiscard]] const std::string& coded_as() const { return coded_as_; }

    FilmWriter(FilmWriter&&) noexcept = default;
    FilmWriter& operator=(FilmWriter&&) noexcept = default;
    ~FilmWriter();

  private:
    FilmWriter() = default;
    FilmLink link_;
    std::string coded_as_, file_;
    bool finished_ = false;
};

/// The name a film has until it is whole.
[[nodiscard]] std::string unfinished_film_name(const std::string& file);

}  // namespace rendak
