#pragma once

#include <string>
#include <vector>

#include "cli/output.h"

namespace rendak::cli {

/// Tracks, section times and alignment. Each prints JSON on standard output and messages on standard error.
int edit_track(const std::string& library, const std::string& name, const std::string& file);
int export_track(const std::string& library, const std::string& name, const std::string& file);
/// `at`: "LAT,LON,HEADING_DEG" or a distance in metres.
int move_start_line(const std::string& library, const std::string& name, const std::string& at);
/// Height and banking from the laps of the library; edges from slow laps ("RUN:LAP"), or from the spread of all laps.
int survey_track(const std::string& library, const std::string& name, const std::string& left_edge,
                 const std::string& right_edge);
/// `mixed`: laps of other drivers and cars than the first run's count too.
int print_sections(const std::string& library, const std::vector<std::int64_t>& runs, bool sectors, bool mixed);
int print_ideal(const std::string& library, const std::vector<std::int64_t>& runs, double effect_s, bool mixed);
int print_peaks(const std::string& library, const std::vector<std::int64_t>& runs, bool banked_count, bool mixed);
/// Standing starts and stops of a run, and what each cost.
int print_stops(const std::string& library, std::int64_t run);
/// How two recordings lie over each other best, with or without places.
int print_overlay(const std::string& library, std::int64_t baseline, std::int64_t run);
int print_alignment(const std::string& library, const std::vector<std::int64_t>& runs);
/// `at_s` none: found by itself again.
int set_launch(const std::string& library, std::int64_t run, std::optional<double> at_s);

}  // namespace rendak::cli
