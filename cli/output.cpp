#include "cli/output.h"

#include <cstdio>
#include <iostream>
#include <nlohmann/json.hpp>

#include "core/base/text.h"
#include "core/intake/check_library.h"
#include "core/intake/run_recording.h"
#include "core/recording/csv_writer.h"

namespace rendak::cli {

namespace {

/// Characters that are allowed in JSON but steer terminals, as escapes: they only stand inside texts.
std::string with_escapes(const std::string& json) {
    std::string out;
    for (std::size_t i = 0; i < json.size();) {
        std::size_t size = 1;
        while (i + size < json.size() && (static_cast<unsigned char>(json[i + size]) & 0xc0) == 0x80) ++size;
        const std::string character = json.substr(i, size);
        if (size == 1 && character[0] != 0x7f) {
            out += character;
        } else if (printable(character) == character) {
            out += character;
        } else {
            // Of two or three bytes: what printable() changes lies below U+10000.
            unsigned code = static_cast<unsigned char>(character[0]);
            if (size > 1) code &= 0xffU >> (size + 1);
            for (std::size_t k = 1; k < size; ++k)
                code = code << 6 | (static_cast<unsigned char>(character[k]) & 0x3fU);
            char escape[8];
            std::snprintf(escape, sizeof escape, "\\u%04x", code & 0xffffU);
            out += escape;
        }
        i += size;
    }
    return out;
}

}  // namespace

void say(const std::string& line) {
    std::cerr << printable(line) << "\n";
}

int report(const Error& error) {
    say("rendak-cli: " + error.text());
    return failed;
}

int misuse(const std::string& message) {
    say("rendak-cli: " + message);
    return wrong_use;
}

int print(const Json& value) {
    std::cout << with_escapes(value.dump(1, ' ', false, Json::error_handler_t::replace)) << std::endl;
    if (!std::cout) return report({ErrorCode::io, "Standard output could not be written.", ""});
    return done;
}

int print_rows(const Json& rows) {
    std::string out;
    std::vector<std::string> fields;
    if (!rows.empty()) {
        for (const auto& [field, value] : rows.front().items())
            if (!value.is_structured()) fields.push_back(field);
    }
    const auto line = [&](const auto& cell) {
        for (std::size_t i = 0; i < fields.size(); ++i) out += (i > 0 ? "," : "") + cell(fields[i]);
        out += "\n";
    };
    line([](const std::string& field) { return csv_cell(field); });
    for (const Json& row : rows) {
        line([&](const std::string& field) -> std::string {
            const auto found = row.find(field);
            if (found == row.end() || found->is_null() || found->is_structured()) return "";
            return found->is_string() ? csv_cell(printable(found->get<std::string>())) : found->dump();
        });
    }
    std::cout << out << std::flush;
    if (!std::cout) return report({ErrorCode::io, "Standard output could not be written.", ""});
    return done;
}

Result<std::unique_ptr<Library>> open_existing(const std::string& folder) {
    auto library = Library::open(folder, Library::Open::existing);
    if (library && (*library)->is_look_only())
        say("The library is open to be looked at only: " + (*library)->look_only() + ".");
    return library;
}

Result<std::shared_ptr<const RunData>> load_checked(Library& library, RunId run) {
    const auto damage = check_runs(library, {run});
    if (!damage) return pass_on(damage.error());
    if (!damage->empty()) return fail(ErrorCode::bad_input, *damage, "run " + std::to_string(run.value));
    return load_run(library, run);
}

Result<Recording> recording_checked(Library& library, RunId run) {
    const auto damage = check_runs(library, {run});
    if (!damage) return pass_on(damage.error());
    if (!damage->empty()) return fail(ErrorCode::bad_input, *damage, "run " + std::to_string(run.value));
    return run_recording(library, run);
}

JobContext spoken_progress(const std::string& what) {
    JobContext job;
    // Shared: the parts of a job each hold a copy of the function.
    job.progress = [what, last = std::make_shared<int>(-1)](double x) {
        const int percent = static_cast<int>(100 * x) / 10 * 10;
        if (percent > *last) say(what + ": " + std::to_string(*last = percent) + " %");
    };
    return job;
}

}  // namespace rendak::cli
