#pragma once

#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace rendak {

/// What the caller may do about an error. The message says the same to a person.
enum class ErrorCode {
    bad_input,    ///< the file, formula or argument is wrong: mend it and try again
    not_found,    ///< the thing named does not exist
    exists,       ///< the thing is already there; nothing was changed
    io,           ///< the disk, folder or link refused
    too_new,      ///< written by a newer version of Rendak
    unsupported,  ///< understood, but this version cannot do it
    needs_rate,   ///< the table has no usable time: ask for rows per second and try again
    cancelled,    ///< the user stopped it; nothing is left behind
};

/// An error that a user can cause: what is wrong, where (file, line, column, channel) and what to do.
struct Error {
    ErrorCode code = ErrorCode::bad_input;
    std::string message;  ///< one or two full sentences
    std::string where;    ///< file, "file:line", channel or run; may be empty

    /// "where: message", for a log or the command line.
    [[nodiscard]] std::string text() const { return where.empty() ? message : where + ": " + message; }
};

template <class T>
using Result = tl::expected<T, Error>;

[[nodiscard]] inline tl::unexpected<Error> fail(ErrorCode code, std::string message, std::string where = {}) {
    return tl::unexpected<Error>(Error{code, std::move(message), std::move(where)});
}

[[nodiscard]] inline tl::unexpected<Error> pass_on(Error error) {
    return tl::unexpected<Error>(std::move(error));
}

}  // namespace rendak
