#include "demo/card.h"

#include <cmath>

#include "core/base/file_io.h"
#include "core/recording/mdf.h"
#include "demo/sensors.h"

namespace rendak::demo {

Result<void> write_card_file(const Recording& recording, const std::filesystem::path& file, const JobContext& job) {
    return write_mdf(recording, file, {.compress = false, .slice_s = 5}, job);
}

Recording one_after_the_other(const Recording& first, const Recording& second, double gap_s) {
    Recording out = first;
    out.channels.clear();
    for (const Channel& channel : first.channels) {
        const Channel* next = second.find_name(channel.name);
        if (next == nullptr || channel.clock.rate_hz <= 0) continue;
        ChannelStorage storage;
        const auto rest = static_cast<std::size_t>(gap_s * channel.clock.rate_hz);
        const auto put = [&](auto& into) {
            using Number = typename std::decay_t<decltype(into)>::value_type;
            for (std::size_t i = 0; i < channel.size(); ++i) into.push_back(static_cast<Number>(channel.at(i)));
            // The last second again and again: a standing car with the noise of its sensors.
            const auto second_long = static_cast<std::size_t>(channel.clock.rate_hz);
            for (std::size_t i = 0; i < rest; ++i) into.push_back(into[into.size() - second_long]);
            for (std::size_t i = 0; i < next->size(); ++i) into.push_back(static_cast<Number>(next->at(i)));
        };
        if (channel.is_double())
            put(storage.doubles);
        else
            put(storage.floats);
        out.channels.push_back(make_channel(channel.name, channel.quantity, channel.unit, std::move(storage),
                                            channel.clock.start_s, channel.clock.rate_hz));
    }
    return out;
}

Result<void> write_waiting_recordings(const std::filesystem::path& card, const Circuit& circuit,
                                      const JobContext& job) {
    const auto recorded = [&](const RunPlan& plan) {
        return main_logger(circuit, plan.car, plan, drive_run(circuit, plan.car, plan));
    };
    const auto write = [&](const Recording& recording, const char* name) {
        return write_card_file(recording, card / name);
    };
    if (auto done = write(recorded(less_wing()), "REC0004.MF4"); !done) return done;
    job.report(0.4);
    if (auto done = write(recorded(cut_off_run()), "REC0005.MF4"); !done) return done;
    std::error_code code;
    const auto size = std::filesystem::file_size(card / "REC0005.MF4", code);
    if (!code) std::filesystem::resize_file(card / "REC0005.MF4", size * 62 / 100, code);
    if (code) return pass_on(io_error("write the demo card", card / "REC0005.MF4", code.value()));
    job.report(0.6);
    const auto stints = two_stints();
    if (job.stopped()) return fail(ErrorCode::cancelled, "Cancelled.", card.string());
    return write(one_after_the_other(recorded(stints[0]), recorded(stints[1]), 420), "REC0006.MF4");
}

}  // namespace rendak::demo
