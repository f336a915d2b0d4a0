#include "cli/video_options.h"

#include "cli/commands.h"
#include "cli/output.h"
#include "cli/video_commands.h"

namespace rendak::cli {

VideoOptions::VideoOptions(CLI::App& app) {
    auto* video = app.add_subcommand("video", "Films of cameras in the car: add, list, put in step, cut clips");
    video->require_subcommand(1);
    add_ = video->add_subcommand("add", "Add films: files that follow each other as one, or all of a folder");
    add_->add_option("files", files_, "Files of one film, in their order");
    add_->add_option("--folder", folder_, "All films of a folder, files that follow each other as one");
    add_->add_option("--camera", camera_, "forward, driver, rearward, or what you call it");
    add_->add_option("--car", car_, "Car that the camera is in");
    add_->add_flag("--keep", keep_, "Copy them into the library (else they stay where they are)");
    list_ = video->add_subcommand("list", "Films of the library, and on which runs they lie");
    sync_ = video->add_subcommand("sync", "Where a film lies on a run: proposed from picture and sound, or said");
    sync_->add_option("film", film_, "Number of the film")->required();
    sync_->add_option("--run", run_, "Number of the run")->required();
    sync_->add_option("--offset", offset_s_, "Run time at the film's first frame, in seconds");
    sync_->add_option("--mark", marks_, "FILM,RUN: seconds of one event in both; two far apart tell the clock's drift");
    sync_->add_option("--nudge", nudge_s_, "Seconds by which it lies later than it was");
    sync_->add_option("--near", near_s_, "Look within 3 s of this offset only");
    sync_->add_option("--log", log_, "What the camera's own receiver recorded, by the clock that dates its films");
    sync_->add_flag("--clocks", clocks_, "By the dates of both");
    sync_->add_flag("--write", write_, "Keep what is proposed");
    clip_ = video->add_subcommand("clip", "A film of laps with figures in it, that plays anywhere");
    clip_->add_option("--laps", laps_, "RUN:LAP,... of one or more laps, one after another")->required();
    clip_->add_option("--out", out_, "File to be written: .mp4, .mov, .mkv, .avi")->required();
    clip_->add_option("--from", from_m_, "Place on the track in metres, with --to");
    clip_->add_option("--to", to_m_, "Place on the track in metres");
    clip_->add_option("--lead", lead_s_, "Seconds before it (default: 2)");
    clip_->add_option("--camera", camera_, "Which camera (default: forward)");
    clip_->add_flag("--beside", beside_, "Two laps beside each other, at the same place");
    clip_->add_option("--width", width_, "Pixels (default: the film's)");
    find_ = video->add_subcommand("find", "Find films that have moved, by their content");
    find_->add_option("folder", folder_, "Where to look")->required();
    remove_ = video->add_subcommand("remove", "Take a film out of the library; a file it was linked to stays");
    remove_->add_option("film", film_, "Number of the film")->required();
}

std::optional<int> VideoOptions::run(const std::string& library) {
    if (*add_ && files_.empty() == folder_.empty()) return misuse("video add: say either files or --folder.");
    if (*add_) return add_films(library, {files_, folder_, camera_, car_, keep_});
    if (*list_) return list_films(library);
    if (*sync_) return sync_film(library, {film_, run_, offset_s_, nudge_s_, near_s_, log_, marks_, clocks_, write_});
    if (*find_) return find_films(library, folder_);
    if (*remove_) return remove_film(library, film_);
    if (!*clip_) return std::nullopt;
    if (from_m_.has_value() != to_m_.has_value()) return misuse("video clip: --from and --to go together.");
    std::vector<std::string> words;
    for (const std::string& it : laps_) words.insert(words.end(), {"--laps", it});
    words.insert(words.end(), {"--out", out_, "--camera", camera_});
    const auto add = [&](const char* name, const std::optional<double>& value) {
        if (value) words.insert(words.end(), {name, std::to_string(*value)});
    };
    add("--from", from_m_);
    add("--to", to_m_);
    add("--lead", lead_s_);
    if (beside_) words.emplace_back("--beside");
    if (width_ > 0) words.insert(words.end(), {"--width", std::to_string(width_)});
    return paint("clip", library, words);
}

}  // namespace rendak::cli
