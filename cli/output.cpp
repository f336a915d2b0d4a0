#include "cli/output.h"

#include <iostream>

namespace rendak::cli {

int report(const Error& error) {
    std::cerr << "rendak-cli: " << error.text() << "\n";
    return failed;
}

int misuse(const std::string& message) {
    std::cerr << "rendak-cli: " << message << "\n";
    return wrong_use;
}

int print(const Json& value) {
    std::cout << value.dump(1, ' ', false, Json::error_handler_t::replace) << std::endl;
    if (!std::cout) return report({ErrorCode::io, "Standard output could not be written.", ""});
    return done;
}

Result<std::unique_ptr<Library>> open_existing(const std::string& folder) {
    return Library::open(folder, Library::Open::existing);
}

JobContext spoken_progress(const std::string& what) {
    JobContext job;
    job.progress = [what, last = -1](double x) mutable {
        const int percent = static_cast<int>(100 * x) / 10 * 10;
        if (percent > last) std::cerr << what << ": " << (last = percent) << " %\n";
    };
    return job;
}

}  // namespace rendak::cli
