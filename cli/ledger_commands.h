#pragma once

#include <string>
#include <vector>

namespace rendak::cli {

/// Where the difference of two sets of laps lies; each side as lap_wish() reads it.
int print_ledger(const std::string& library, const std::vector<std::string>& a, const std::vector<std::string>& b,
                 bool mixed, const std::vector<std::string>& more);
/// What a km/h more is worth at each corner of a set.
int print_worth(const std::string& library, const std::vector<std::string>& runs, bool mixed);
/// What B does otherwise than A, with what it costs.
int print_findings(const std::string& library, const std::vector<std::string>& a, const std::vector<std::string>& b,
                   bool mixed);
/// Where to begin: corners with the seconds that could be found, sure first, driver before car.
int print_work_list(const std::string& library, const std::vector<std::string>& a, const std::vector<std::string>& b,
                    bool mixed);
/// What the driver does, corner by corner and lap by lap.
int print_technique(const std::string& library, const std::vector<std::string>& runs, bool mixed);
/// Laps that left the way the usual ones went, with what led to it, asked in order.
int print_excursions(const std::string& library, const std::string& lap, const std::vector<std::string>& usual);
/// Wheels that lock up or spin.
int print_wheel_events(const std::string& library, const std::vector<std::string>& runs, bool mixed);

}  // namespace rendak::cli
