#include "core/library/sql.h"

namespace rendak::sql {

Error database_error(sqlite3* database) {
    const char* name = sqlite3_db_filename(database, nullptr);
    const std::string where = name == nullptr ? "" : name;
    switch (sqlite3_errcode(database) & 0xff) {
        case SQLITE_FULL:
            return {ErrorCode::io,
                    "The disk is full: the library could not be written. Free some space and try again; "
                    "nothing was changed.",
                    where};
        case SQLITE_READONLY:
        case SQLITE_CANTOPEN:
        case SQLITE_PERM:
            return {ErrorCode::io, "The library folder cannot be written. Choose another folder or change its rights.",
                    where};
        case SQLITE_BUSY:
        case SQLITE_LOCKED:
            return {ErrorCode::io, "Another Rendak is writing to this library. Try again when it has finished.", where};
        case SQLITE_NOTADB:
        case SQLITE_CORRUPT:
            return {ErrorCode::bad_input,
                    "The library's catalogue is damaged. Restore library.sqlite from a backup; the "
                    "recordings beside it are not touched.",
                    where};
        default:
            return {ErrorCode::io,
                    std::string("The library could not be read or written (") + sqlite3_errmsg(database) + ").", where};
    }
}

Statement::Statement(sqlite3* database, const char* text) : database_(database) {
    code_ = sqlite3_prepare_v2(database, text, -1, &statement_, nullptr);
}

Statement& Statement::bind(std::int64_t value) {
    sqlite3_bind_int64(statement_, next_++, value);
    return *this;
}

Statement& Statement::bind(double value) {
    sqlite3_bind_double(statement_, next_++, value);
    return *this;
}

Statement& Statement::bind(const std::string& text) {
    sqlite3_bind_text(statement_, next_++, text.data(), static_cast<int>(text.size()), SQLITE_TRANSIENT);
    return *this;
}

Statement& Statement::bind_null() {
    sqlite3_bind_null(statement_, next_++);
    return *this;
}

bool Statement::step() {
    if (statement_ == nullptr) return false;
    code_ = sqlite3_step(statement_);
    return code_ == SQLITE_ROW;
}

Result<void> Statement::run() {
    while (step()) {
    }
    return status();
}

Result<void> Statement::status() const {
    if (code_ == SQLITE_OK || code_ == SQLITE_DONE || code_ == SQLITE_ROW) return {};
    return pass_on(database_error(database_));
}

std::string Statement::text(int column) const {
    const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(statement_, column));
    return text == nullptr ? "" : std::string(text, static_cast<std::size_t>(sqlite3_column_bytes(statement_, column)));
}

Transaction::Transaction(sqlite3* database)
    : database_(database),
      code_(sqlite3_exec(database, "BEGIN IMMEDIATE", nullptr, nullptr, nullptr)),
      open_(code_ == SQLITE_OK) {}

Transaction::~Transaction() {
    if (open_) sqlite3_exec(database_, "ROLLBACK", nullptr, nullptr, nullptr);
}

Result<void> Transaction::begun() const {
    if (code_ != SQLITE_OK) return pass_on(database_error(database_));
    return {};
}

Result<void> Transaction::commit() {
    if (sqlite3_exec(database_, "COMMIT", nullptr, nullptr, nullptr) != SQLITE_OK)
        return pass_on(database_error(database_));
    open_ = false;
    return {};
}

}  // namespace rendak::sql
