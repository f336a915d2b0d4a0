#include "core/library/sql.h"

#include <sqlite3.h>

#include "core/base/text.h"

namespace rendak::sql {

Connection::~Connection() {
    sqlite3_close_v2(handle_);
}

Result<void> Connection::execute(const std::string& script) const {
    if (sqlite3_exec(handle_, script.c_str(), nullptr, nullptr, nullptr) != SQLITE_OK) return pass_on(error());
    return {};
}

std::int64_t Connection::last_id() const {
    return sqlite3_last_insert_rowid(handle_);
}

bool Connection::in_transaction() const {
    return sqlite3_get_autocommit(handle_) == 0;
}

Error Connection::error() const {
    return database_error(handle_, sqlite3_errcode(handle_));
}

Error database_error(sqlite3* database, int code) {
    const char* name = sqlite3_db_filename(database, nullptr);
    const std::string where = name == nullptr ? "" : name;
    switch (code & 0xff) {
        case SQLITE_FULL:
            return {ErrorCode::io, "The disk is full: the library could not be written. Free some space and try again.",
                    where};
        case SQLITE_READONLY:
            return {ErrorCode::io,
                    "The library is open to be looked at only: its folder cannot be written, or its disk is full. "
                    "Nothing was changed.",
                    where};
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
                    "The library's catalogue is damaged. Restore library.sqlite from a backup, or put it away: the "
                    "recordings beside it are not touched and can be filed again.",
                    where};
        case SQLITE_CONSTRAINT:
            return {ErrorCode::exists,
                    "The library has something of this name or number already, or what this refers to is gone. Nothing "
                    "was changed.",
                    where};
        case SQLITE_NOMEM:
        case SQLITE_TOOBIG:
            return {ErrorCode::io, "This is too large for the library's catalogue. Nothing was changed.", where};
        default:
            return {ErrorCode::io,
                    "The library could not be read or written (error " + std::to_string(code) +
                        " of its catalogue). Check the disk, and try again.",
                    where};
    }
}

Statement::Statement(const Connection& database, const char* text) : database_(database.handle()) {
    code_ = sqlite3_prepare_v2(database_, text, -1, &statement_, nullptr);
}

Statement::~Statement() {
    sqlite3_finalize(statement_);
}

std::int64_t Statement::integer(int column) const {
    return sqlite3_column_int64(statement_, column);
}

double Statement::real(int column) const {
    return sqlite3_column_double(statement_, column);
}

bool Statement::is_null(int column) const {
    return sqlite3_column_type(statement_, column) == SQLITE_NULL;
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
    // Only text that every reader can print comes in, whatever it was called outside.
    const std::string valid = utf8_of(text);
    sqlite3_bind_text64(statement_, next_++, valid.data(), valid.size(), SQLITE_TRANSIENT, SQLITE_UTF8);
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

Result<bool> Statement::found() {
    if (step()) return true;
    if (auto fine = status(); !fine) return pass_on(fine.error());
    return false;
}

Result<void> Statement::run() {
    while (step()) {
    }
    return status();
}

Result<void> Statement::status() const {
    if (code_ == SQLITE_OK || code_ == SQLITE_DONE || code_ == SQLITE_ROW) return {};
    return pass_on(database_error(database_, code_));
}

std::string Statement::text(int column) const {
    const auto* text = reinterpret_cast<const char*>(sqlite3_column_text(statement_, column));
    return text == nullptr ? "" : std::string(text, static_cast<std::size_t>(sqlite3_column_bytes(statement_, column)));
}

Transaction::Transaction(const Connection& database)
    : database_(database.handle()),
      inner_(database.in_transaction()),
      code_(sqlite3_exec(database_, inner_ ? "SAVEPOINT part" : "BEGIN IMMEDIATE", nullptr, nullptr, nullptr)),
      open_(code_ == SQLITE_OK) {}

Transaction::~Transaction() {
    if (!open_) return;
    // A failed statement may have ended the whole of it already; then there is nothing to take back.
    sqlite3_exec(database_, inner_ ? "ROLLBACK TO part; RELEASE part" : "ROLLBACK", nullptr, nullptr, nullptr);
}

Result<void> Transaction::begun() const {
    if (code_ != SQLITE_OK) return pass_on(database_error(database_, code_));
    return {};
}

Result<void> Transaction::commit() {
    if (sqlite3_exec(database_, inner_ ? "RELEASE part" : "COMMIT", nullptr, nullptr, nullptr) != SQLITE_OK)
        return pass_on(database_error(database_, sqlite3_errcode(database_)));
    open_ = false;
    return {};
}

}  // namespace rendak::sql
