#pragma once

#include <cstdint>
#include <string>

namespace rendak::cli {

/// A track corner by corner, from one lap: the best one that counts of a run, or of the newest run of the track.
/// `format` is json or text (on standard output), or pdf (into `file`); units as core has them (km/h, m).
int print_guide(const std::string& library, const std::string& track, std::int64_t run, const std::string& format,
                const std::string& file);

}  // namespace rendak::cli
