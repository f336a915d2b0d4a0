#include "demo/write_demo.h"

#include "core/base/file_io.h"
#include "core/base/text.h"
#include "core/intake/import.h"
#include "core/recording/csv_writer.h"
#include "core/recording/recording_file.h"
#include "demo/sensors.h"
#include "demo/truth.h"

namespace rendak::demo {
namespace {

Result<void> make_folder(const std::filesystem::path& folder) {
    std::error_code code;
    std::filesystem::create_directories(folder, code);
    if (code) return pass_on(io_error("make the folder", folder, code.value()));
    return {};
}

std::string stem(const RunPlan& plan) {
    std::string name = lower(plan.name);
    for (char& c : name) c = c == ' ' ? '-' : c;
    return "saturday-" + name;
}

}  // namespace

Result<void> write_demo(const std::filesystem::path& folder, const JobContext& job) {
    const auto files = folder / "demo-files", truths = folder / "truth";
    for (const auto& part : {folder, files, truths}) {
        if (auto made = make_folder(part); !made) return made;
    }
    auto library = Library::open(folder);
    if (!library) return pass_on(library.error());
    const Circuit circuit = skerrow_point();
    const Car car;
    const auto plans = saturday();
    std::optional<RunId> baseline;
    for (std::size_t i = 0; i < plans.size(); ++i) {
        const RunPlan& plan = plans[i];
        const JobContext part = job.part(static_cast<double>(i) / 3.3, static_cast<double>(i + 1) / 3.3);
        const Drive drive = drive_run(circuit, car, plan);
        part.report(0.4);
        if (job.stopped())
            return fail(ErrorCode::cancelled, "Cancelled; the runs written so far stay.", folder.string());
        Recording recording = main_logger(circuit, car, plan, drive);
        if (auto done = write_file(truths / (stem(plan) + ".json"), truth_json(circuit, plan, drive)); !done)
            return done;
        if (auto done = write_recording(recording, files / (stem(plan) + ".rdk.h5")); !done) return done;
        if (plan.name == "Run 2") {
            if (auto done = write_csv(pocket_logger(circuit, plan, drive), files / (stem(plan) + "-pocket.csv")); !done)
                return done;
        }
        part.report(0.7);
        ImportOptions options;
        options.event = "Skerrow Point test day";
        options.session = "Saturday";
        options.name = plan.name;
        options.driver = plan.driver;
        options.car = "Club prototype 27";
        recording.source_name = stem(plan) + ".rdk.h5";
        const auto run = import_recording(**library, {std::move(recording), {plan.note}}, options, part.part(0.7, 1));
        if (!run) return pass_on(run.error());
        if (plan.name == "Run 2") baseline = run->run;
    }
    if (!(*library)->find_track(circuit.name)) {
        const auto learnt =
            learn_track_from_run(**library, *baseline, circuit.name, StartPlace{circuit.origin, circuit.heading_deg});
        if (!learnt) return pass_on(learnt.error());
    }
    job.report(1);
    return {};
}

}  // namespace rendak::demo
