#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace rendak::cli {

/// Which laps, and how the answer is written.
struct ChassisSets {
    std::vector<std::string> laps, against;
    bool mixed = false, csv = false;
};
/// Where on the lap: a kind of stretch, or places.
struct StretchChoice {
    std::string on;
    std::optional<double> from_m, to_m;
};
struct SpectrumChoice {
    std::string channel = "tyre_load", axle, wheels, detrend = "line";
    double segment_s = 1;
    std::vector<double> band_hz{1, 10};
};
struct LadderChoice {
    std::vector<std::int64_t> runs;
    std::string event, line;
    std::optional<double> baseline;
    bool plan = false;
};

/// Ride height against its limit.
int print_heights(const std::string& library, const ChassisSets& sets);
/// How fast dampers move, and how the time is shared.
int print_dampers(const std::string& library, const ChassisSets& sets, const StretchChoice& stretch, double fast_mps);
/// Amplitudes over frequency.
int print_spectrum(const std::string& library, const ChassisSets& sets, const StretchChoice& stretch,
                   const SpectrumChoice& choice);
/// Runs that step one value of the setup sheet.
int print_ladder(const std::string& library, const LadderChoice& ladder, const StretchChoice& stretch,
                 const SpectrumChoice& choice, bool csv);
/// Understeer, roll, pitch, ride frequencies.
int print_balance(const std::string& library, const ChassisSets& sets);
/// Power and drag.
int print_pull(const std::string& library, const ChassisSets& sets);
/// Kerbs and lock-ups by wheel and corner.
int print_strikes(const std::string& library, const ChassisSets& sets);
/// What could be tried on the car.
int print_hints(const std::string& library, const ChassisSets& sets);

}  // namespace rendak::cli
