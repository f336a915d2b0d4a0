#pragma once

#include "app/desks/chassis/chassis_look.h"
#include "core/chassis/sheet.h"
#include "core/library/library.h"

namespace rendak::app {

/// "A Run 7"
[[nodiscard]] QString side_name(const ChassisSide& side);

/// What a page is made of.
struct ChassisWork {
    Library& library;
    ChassisSide a;
    std::vector<PreparedLap> laps_a;  ///< that count
    /// All that are held against A, B first, each with its laps.
    std::vector<std::pair<ChassisSide, std::vector<PreparedLap>>> against;
    ChassisSheet sheet_a, sheet_b;
    ChassisChoice choice;
    const JobContext& job;

    /// The first of them; null where there is none.
    [[nodiscard]] const ChassisSide* b() const { return against.empty() ? nullptr : &against.front().first; }
    [[nodiscard]] std::span<const PreparedLap> laps_b() const {
        return against.empty() ? std::span<const PreparedLap>() : against.front().second;
    }
    [[nodiscard]] QString letter_a() const;
    [[nodiscard]] QString letter_b() const;
    [[nodiscard]] QString name_a() const;
    [[nodiscard]] QString name_b() const;
};

// Each fills headline, foot, pictures and tables; an error is told in the headline by the caller.
[[nodiscard]] Result<void> heights_page(const ChassisWork& work, ChassisLook& out);
[[nodiscard]] Result<void> dampers_page(const ChassisWork& work, ChassisLook& out);
[[nodiscard]] Result<void> spectrum_page(const ChassisWork& work, ChassisLook& out);
[[nodiscard]] Result<void> ladder_page(const ChassisWork& work, ChassisLook& out);
[[nodiscard]] Result<void> balance_page(const ChassisWork& work, ChassisLook& out);
[[nodiscard]] Result<void> pull_page(const ChassisWork& work, ChassisLook& out);
[[nodiscard]] Result<void> strikes_page(const ChassisWork& work, ChassisLook& out);
[[nodiscard]] Result<void> trial_page(const ChassisWork& work, ChassisLook& out);

/// The stretches that were chosen, or those proposed for the axle: exits for the rear, corners for the front.
[[nodiscard]] Result<std::vector<Stretch>> stretches_chosen(const ChassisChoice& choice,
                                                            std::span<const PreparedLap> laps, StretchKind proposed);
[[nodiscard]] RoadShape road_shape(std::span<const PreparedLap> laps);
[[nodiscard]] QString stretches_words(const std::vector<Stretch>& stretches);
[[nodiscard]] QString wheel_title(const std::string& wheel);

// Words and numbers of the pages' cells.
[[nodiscard]] QString words(std::string_view core);
[[nodiscard]] QString plain_number(double value, int decimals);
[[nodiscard]] QString percent_text(double share, int decimals = 0);

}  // namespace rendak::app
