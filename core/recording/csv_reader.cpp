#include "core/recording/csv_reader.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "core/base/mapping_guard.h"
#include "core/base/text.h"
#include "core/recording/second_head.h"
#include "core/recording/table_body.h"
#include "core/recording/table_recording.h"
#include "core/recording/table_rows.h"
#include "core/recording/table_text.h"
#include "core/signal/quantity.h"
#include "core/units/unit.h"

namespace rendak {
namespace {

using Kind = TableColumn::Kind;
constexpr std::size_t most_columns = 10'000;

class CsvReader {
  public:
    CsvReader(const std::filesystem::path& file, const CsvOptions& options, const JobContext& job) : job_(job) {
        rows_.file = file.string();
        rows_.options = options;
    }

    Result<ReadRecording> read(const std::filesystem::path& path) {
        const auto text = TableText::open(path, 0, job_);
        if (!text) return pass_on(text.error());
        auto shape = find_table_shape(text->text(), rows_.file);
        if (!shape) return pass_on(shape.error());
        rows_.shape = std::move(*shape);
        if (const auto head = head_of_fewer_cells(text->text().substr(0, rows_.shape.data_offset), rows_.shape))
            return fail(ErrorCode::bad_input,
                        "The rows have " + std::to_string(rows_.shape.columns.size()) +
                            " cells, more than the line that names them (\"" + *head +
                            "\"). Are numbers written with a comma between commas? Export the table with another "
                            "separator or a decimal point; nothing was imported.",
                        rows_.file);
        say_shape(*text);
        if (auto parsed = parse_body(text->text()); !parsed) return pass_on(parsed.error());
        if (text->was_hdf5()) ask_about_groups();
        if (text->shrank()) return pass_on(file_changed(path));
        return recording_of(std::move(rows_), path.filename().string(), job_);
    }

  private:
    void say_shape(const TableText& text) {
        const TableShape& shape = rows_.shape;
        const char d = shape.delimiter;
        const std::string name = d == ',' ? "comma" : d == ';' ? "semicolon" : d == '\t' ? "tab" : "|";
        if (text.was_hdf5()) {
            rows_.say("Read as a table: the HDF5 file has " + counted(shape.columns.size(), "column", "columns") +
                      " of numbers, times with them.");
            for (const std::string& note : text.notes()) rows_.say(note);
            return;
        }
        rows_.say("Read as a table separated by " + name + ", decimal " +
                  (shape.decimal_sign == '.' ? "point" : "comma") + ", " +
                  counted(shape.columns.size(), "column", "columns") +
                  (shape.has_names
                       ? (shape.has_unit_row ? ", names and units above the numbers" : ", names above the numbers")
                       : ", without names: columns are numbered") +
                  (text.was_utf16() ? ", UTF-16." : "."));
    }

    /// Room is made for whole rows before they are read: it must be in the file what they claim.
    Result<void> check_size(std::size_t bytes) const {
        const std::size_t columns = rows_.shape.columns.size();
        if (columns > most_columns)
            return fail(ErrorCode::bad_input,
                        "The table has more than " + std::to_string(most_columns) + " columns. Export fewer channels.",
                        rows_.file);
        // A cell takes a byte at least: its separator.
        if (rows_.count > (bytes + 1'000'000) / columns)
            return fail(ErrorCode::bad_input,
                        "Most rows of the table do not have the " + std::to_string(columns) +
                            " values that its first rows have. Is it several tables in one file? Nothing was imported.",
                        rows_.file);
        if (rows_.count * columns > memory_for_one_file() / 8)
            return fail(ErrorCode::bad_input,
                        "The table is larger than the memory that is to be had. Export it in parts.", rows_.file);
        return {};
    }

    /// Which columns are read, as what, and where a pair of positions in one cell puts its second number.
    void prepare_columns() {
        TableShape& shape = rows_.shape;
        const auto pair = std::find_if(shape.columns.begin(), shape.columns.end(),
                                       [](const TableColumn& head) { return head.kind == Kind::place_pair; });
        const std::size_t cells = shape.columns.size();
        if (pair != shape.columns.end()) {
            const std::string name = pair->name;
            pair->name = "Latitude of " + name;
            TableColumn longitude = *pair;
            longitude.name = "Longitude of " + name;
            longitude.kind = Kind::number;
            shape.columns.push_back(longitude);
        }
        rows_.columns = std::vector<BodyColumn>(shape.columns.size());
        for (std::size_t c = 0; c < rows_.columns.size(); ++c) {
            BodyColumn& column = rows_.columns[c];
            TableColumn& head = shape.columns[c];
            column.head = &head;
            column.wanted = head.kind != Kind::text;
            column.quantity = match_quantity(head.name, rows_.options.aliases);
            if (c >= cells) {
                column.quantity = find_quantity("longitude");
                for (BodyColumn& other : rows_.columns) {
                    if (other.head != nullptr && other.head->kind == Kind::place_pair && other.longitude == nullptr) {
                        other.longitude = &column;
                        other.quantity = find_quantity("latitude");
                        break;
                    }
                }
            }
            if (rows_.options.mapping) apply_mapping(column, head);
            // A decimal comma in a table of commas stands inside quotes only.
            column.plain = column.wanted && head.kind == Kind::number && head.decimal_sign != shape.delimiter;
            column.is_double = column.wanted && (wants_double(column) || (!shape.has_names && c == 0));
            if (column.is_double)
                column.doubles.resize(rows_.count);
            else
                column.floats.resize(rows_.count);
            if (c >= cells) std::fill(column.doubles.begin(), column.doubles.end(), std::nan(""));
            if (head.kind != Kind::text || head.name.empty() || head.name.starts_with("Column ")) continue;
            // A known quantity that cannot be read is missed; a comment is not.
            if (column.quantity != nullptr && column.quantity->id != "time" && !rows_.is_answered(column) &&
                head.example.find_first_of("0123456789") != std::string::npos)
                ask_about_cells(head, "The cells of column \"" + head.name + "\" (the first is \"" + head.example +
                                          "\") cannot be read as numbers.");
            else
                rows_.say("Column \"" + head.name + "\" holds text and was left out.");
        }
        cells_ = cells;
    }

    /// "ecu1/Speed" of an HDF5 file: whether that is the car's speed only its owner knows. Asked once a group, where
    /// nothing else is that quantity.
    void ask_about_groups() {
        std::map<std::string, std::vector<std::pair<const BodyColumn*, const Quantity*>>> groups;
        for (const BodyColumn& column : rows_.columns) {
            const auto mark = column.head->name.rfind('/');
            if (!column.wanted || column.quantity != nullptr || mark == std::string::npos || is_said(column)) continue;
            const Quantity* quantity = match_quantity(column.head->name.substr(mark + 1), rows_.options.aliases);
            if (quantity == nullptr || rows_.find(quantity->id) != nullptr) continue;
            groups[column.head->name.substr(0, mark)].emplace_back(&column, quantity);
        }
        for (const auto& [group, columns] : groups) {
            std::string yes, no, labels;
            for (const auto& [column, quantity] : columns) {
                yes += (yes.empty() ? "" : "\n") + column->head->name + "=" + std::string(quantity->id);
                no += (no.empty() ? "" : "\n") + column->head->name + "=";
                labels += (labels.empty() ? "" : ", ") + lower(quantity->label);
            }
            Question question{columns.front().first->head->name,
                              "Is what lies in group \"" + group + "\" that of the car: " + labels + "?",
                              {}};
            question.answers.push_back({yes, "yes, of this car"});
            question.answers.push_back({no, "no: keep the names only"});
            rows_.questions.push_back(std::move(question));
        }
    }

    [[nodiscard]] bool is_said(const BodyColumn& column) const {
        const auto* said = rows_.options.mapping ? rows_.options.mapping->find(column.head->name) : nullptr;
        return said != nullptr && (!said->use || said->quantity != TableMapping::by_itself);
    }

    void ask_about_cells(const TableColumn& head, const std::string& what) {
        Question question{head.name, what + " Import the table without it?", {}};
        question.answers.push_back({head.name + "=drop", "leave it out"});
        rows_.questions.push_back(std::move(question));
    }

    void apply_mapping(BodyColumn& column, TableColumn& head) const {
        const TableMapping::Column* mapped = rows_.options.mapping->find(head.name);
        if (mapped == nullptr) return;
        if (!mapped->use) column.wanted = false;
        if (mapped->quantity != TableMapping::by_itself) column.quantity = find_quantity(mapped->quantity);
        if (mapped->unit.empty()) return;
        if (head.kind == Kind::time_text) {
            head.order = folded(mapped->unit).starts_with("mm") ? DateOrder::month_first : DateOrder::day_first;
            head.order_open = false;
        } else {
            head.unit = mapped->unit;
            // What is a position of the pedal by its name may be a pressure by its unit.
            const auto unit = parse_unit(mapped->unit);
            if (unit && column.quantity != nullptr && column.quantity->id == "brake" &&
                unit->dimension == parse_unit("Pa")->dimension)
                column.quantity = find_quantity("brake_front");
        }
    }

    Result<void> parse_body(std::string_view text) {
        while (text.size() > rows_.shape.data_offset &&
               (text.back() == '\n' || text.back() == '\r' || text.back() == ' ' || text.back() == '\0')) {
            text.remove_suffix(1);
        }
        auto blocks = cut_into_blocks(text, rows_.shape.data_offset);
        const unsigned threads = rows_.options.threads;
        for_each_block(blocks.size(), threads, job_.part(0, 0.1), [&](std::size_t i) {
            TextBlock& block = blocks[i];
            block.rows = lines_of(text.substr(block.begin, block.end - block.begin));
            let_go(text.data() + block.begin, block.end - block.begin);
        });
        if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", rows_.file);
        rows_.count = 0;
        for (TextBlock& block : blocks) {
            block.first_row = rows_.count;
            rows_.count += block.rows;
        }
        if (auto fits = check_size(text.size()); !fits) return fits;
        prepare_columns();
        const TableBody body(text, rows_.shape, {rows_.columns.data(), cells_});
        std::vector<BadRow> bad(blocks.size());
        for_each_block(blocks.size(), threads, job_.part(0.1, 0.9), [&](std::size_t i) {
            body.parse(blocks[i], bad[i]);
            let_go(text.data() + blocks[i].begin, blocks[i].end - blocks[i].begin);
            if (i % blocks_in_memory == 0) rows_.let_go_of_columns();
        });
        rows_.let_go_of_columns();
        if (job_.stopped()) return fail(ErrorCode::cancelled, "Cancelled; nothing was kept.", rows_.file);
        for (const BadRow& row : bad) {
            if (!row.found) continue;
            const std::size_t line = rows_.shape.first_data_line + row.row;
            if (row.row + 1 == rows_.count && row.cells < cells_) {
                rows_.say("The file ends in the middle of line " + std::to_string(line) + "; that line was left out.");
                --rows_.count;
                break;
            }
            return fail(ErrorCode::bad_input,
                        "Line " + std::to_string(line) + " has " + counted(row.cells, "value", "values") +
                            ", the table has " + counted(cells_, "column", "columns") +
                            ". Mend or remove that line, or export the file again; nothing was imported.",
                        rows_.file + ":" + std::to_string(line));
        }
        if (auto one = only_one_head(text, blocks); !one) return one;
        for (BodyColumn& column : rows_.columns) {
            if (!column.wanted || column.bad_cells == 0) continue;
            rows_.say("Column \"" + column.head->name + "\": " + counted(column.bad_cells, "cell is", "cells are") +
                      " no number, the first in line " + std::to_string(column.first_bad_line) + "; taken as missing.");
            // A few are damage. Many are a way of writing that is not understood.
            if (column.quantity != nullptr && column.bad_cells * 5 > rows_.count && !rows_.is_answered(column))
                ask_about_cells(*column.head, counted(column.bad_cells, "cell", "cells") + " of column \"" +
                                                  column.head->name + "\" cannot be read, the first in line " +
                                                  std::to_string(column.first_bad_line) + ".");
        }
        return {};
    }

    /// A row in which most columns hold no number may be the head of another table below the first.
    Result<void> only_one_head(std::string_view text, const std::vector<TextBlock>& blocks) const {
        std::map<std::size_t, std::size_t> bad_in_line;
        std::size_t wanted = 0;
        for (const BodyColumn& column : rows_.columns) {
            wanted += column.wanted;
            if (column.wanted && column.bad_cells > 0) ++bad_in_line[column.first_bad_line];
        }
        for (const auto& [line, columns] : bad_in_line) {
            if (columns < 2 || columns * 2 < wanted) continue;
            const auto head = other_head(text_of_row(text, blocks, line - rows_.shape.first_data_line), rows_.shape);
            if (!head) continue;
            return fail(ErrorCode::bad_input,
                        "Line " + std::to_string(line) + " is the head of another table: " + *head +
                            ". Import the tables one by one; nothing was imported.",
                        rows_.file + ":" + std::to_string(line));
        }
        return {};
    }

    [[nodiscard]] static std::string_view text_of_row(std::string_view text, const std::vector<TextBlock>& blocks,
                                                      std::size_t row) {
        for (const TextBlock& block : blocks) {
            if (row >= block.first_row + block.rows) continue;
            std::size_t at = block.begin;
            for (std::size_t i = block.first_row; i < row && at < block.end; ++i) at = text.find('\n', at) + 1;
            return trimmed(text.substr(at, std::min(text.find('\n', at), text.size()) - at));
        }
        return {};
    }

    /// Of a large table what was read leaves this process's memory now and then: after so many blocks of a megabyte.
    static constexpr std::size_t blocks_in_memory = 8;

    JobContext job_;
    TableRows rows_;
    std::size_t cells_ = 0;  ///< columns of the file; the longitude of a pair comes behind them
};

}  // namespace

Result<ReadRecording> read_csv(const std::filesystem::path& file, const CsvOptions& options, const JobContext& job) {
    return CsvReader(file, options, job).read(file);
}

}  // namespace rendak
