#pragma once

#include <optional>
#include <string>

#include "core/video/drive_signals.h"
#include "core/video/engine_sound.h"
#include "core/video/film_motion.h"

namespace rendak {

/// Where a film lies on a run: run time = offset + rate · film time.
struct FilmOffset {
    double offset_s = 0, rate = 1;
    bool operator==(const FilmOffset&) const = default;

    [[nodiscard]] double run_s(double film_s) const { return offset_s + rate * film_s; }
    [[nodiscard]] double film_s(double run_s) const { return (run_s - offset_s) / rate; }
};

/// One way of telling it.
struct OffsetCue {
    std::string name;     ///< "turning", "moving", "sound"
    double offset_s = 0;  ///< where this one fits best
    double fits = 0;      ///< how well: Pearson's correlation; of the sound, how far above the usual of all offsets
    double clear = 0;     ///< by how many standard errors better than the best one more than 2 s beside it
};

/// What is proposed of a film and a run.
struct OffsetFound {
    std::optional<FilmOffset> at;  ///< none: it cannot be told
    std::string why;               ///< a sentence: what it rests on, or why it cannot be told
    std::vector<OffsetCue> cues;
    std::string near = {};     ///< what it was looked for near of
    bool upside_down = false;  ///< the picture fits only the other way round
    double clear = 0;          ///< standard errors by which it is better than every other offset
    double left_over = 1;      ///< share of the picture's turning that the run does not explain; 1: it tells nothing
    double check_film_s = 0;   ///< a moment late in the film to look at: the car turns in or brakes hard there
};

/// About where a film lies, from something else; nothing farther from it is looked at then.
struct OffsetHint {
    double offset_s = 0, within_s = 1;
    std::string from = {};  ///< "the camera's log"
    bool enough = false;    ///< it stands where picture and sound tell nothing
};

/// What an offset rests on, in words: "turning, sound, the camera's log".
[[nodiscard]] std::string proposed_how(const OffsetFound& found);

/// Holds how the picture moves across against the yaw rate, how much of it changes against the speed, and the sound
/// against the revs, for every offset at which they share at least 20 s. An offset is told only where it is better than
/// every other one by more than chance, and where no clear cue contradicts it. Nothing is told of what neither turns
/// nor stops. With a hint that holds no second lap, a picture that goes along is enough.
[[nodiscard]] OffsetFound find_offset(const DriveSignals& drive, const FilmMotion* motion, const EngineSound* sound,
                                      const std::optional<OffsetHint>& near = {});

}  // namespace rendak
