#pragma once

#include <string>
#include <tl/expected.hpp>
#include <utility>
#include <vector>

namespace rendak {

/// What the caller may do about an error. The message says the same to a person.
enum class ErrorCode {
    bad_input,     ///< the file, formula or argument is wrong: mend it and try again
    not_found,     ///< the thing named does not exist
    exists,        ///< the thing is already there; nothing was changed
    io,            ///< the disk, folder or link refused
    too_new,       ///< written by a newer version of Rendak
    unsupported,   ///< understood, but this version cannot do it
    needs_rate,    ///< the table has no usable time: ask for rows per second and try again
    needs_answer,  ///< the file can be read in several ways: ask `Error::questions` and try again with the answers
    cancelled,     ///< the user stopped it; nothing is left behind
};

/// Something that a file leaves open and only its owner knows, with the answers that fit.
struct Question {
    std::string about;  ///< the column or channel
    std::string text;   ///< a full sentence
    struct Answer {
        std::string take;   ///< what to give back: "Speed=speed:mph"; lines, where it says something of several columns
        std::string label;  ///< for people
    };
    std::vector<Answer> answers = {};
};

/// An error that a user can cause: what is wrong, where (file, line, column, channel) and what to do.
struct Error {
    ErrorCode code = ErrorCode::bad_input;
    std::string message;                   ///< one or two full sentences
    std::string where;                     ///< file, "file:line", channel or run; may be empty
    std::vector<Question> questions = {};  ///< with needs_answer

    /// "where: message", for a log or the command line.
    [[nodiscard]] std::string text() const { return where.empty() ? message : where + ": " + message; }
};

template <class T>
using Result = tl::expected<T, Error>;

[[nodiscard]] inline tl::unexpected<Error> fail(ErrorCode code, std::string message, std::string where = {}) {
    return tl::unexpected<Error>(Error{code, std::move(message), std::move(where), {}});
}

[[nodiscard]] inline tl::unexpected<Error> pass_on(Error error) {
    return tl::unexpected<Error>(std::move(error));
}

}  // namespace rendak
