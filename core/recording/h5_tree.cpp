#include "core/recording/h5_tree.h"

#include <algorithm>
#include <set>

#include "core/base/text.h"
#include "core/recording/h5_handle.h"
#include "core/signal/quantity.h"

namespace rendak {
namespace {

constexpr std::size_t most_tree_columns = 10'000, most_objects = 100'000, deepest_group = 32;
constexpr auto unit_words = {"units", "unit", "uom", "engineeringunits", "engunits"};
constexpr auto name_words = {"name", "longname", "label", "channel", "channelname", "title", "displayname"};
constexpr auto list_words = {"columns", "columnnames", "names",        "fields",      "fieldnames",
                             "labels",  "channels",    "channelnames", "signalnames", "signals"};

bool is_one_of(std::string_view text, std::initializer_list<const char*> words) {
    return std::find(words.begin(), words.end(), text) != words.end();
}

bool all_digits(std::string_view text) {
    return !text.empty() && text.find_first_not_of("0123456789") == std::string_view::npos;
}

/// "data" in "/speed/data": the group is the channel.
bool is_plain_leaf(std::string_view name) {
    return is_one_of(folded(name), {"data", "value", "values", "samples", "sample", "signal", "y", "ydata"});
}

/// Groups whose names say nothing of a channel: "/channels", "/100Hz".
bool is_plain_group(std::string_view name) {
    const std::string word = folded(name);
    if (all_digits(word)) return true;
    if (is_one_of(word,
                  {"data",   "channels", "channel",  "signals",   "signal", "measurements", "measurement", "log",
                   "logs",   "logger",   "logged",   "recording", "record", "records",      "can",         "bus",
                   "table",  "tables",   "dataset",  "datasets",  "values", "fast",         "slow",        "raw",
                   "timed",  "rawdata",  "group",    "groups",    "series", "run",          "session",     "lap",
                   "stint",  "samples",  "root",     "file",      "drive",  "variables",    "timeseries",  "all",
                   "driver", "car",      "vehicle",  "gps",       "gnss",   "imu",          "position",    "positions",
                   "motion", "pedals",   "controls", "inputs"}))
        return true;
    // "100hz", "rate100", "hz100"
    for (const char* mark : {"hz", "rate", "group", "run", "lap", "session", "g", "f"}) {
        const std::string_view text = mark;
        if (word.starts_with(text) && all_digits(word.substr(text.size()))) return true;
        if (word.ends_with(text) && all_digits(word.substr(0, word.size() - text.size()))) return true;
    }
    return false;
}

std::vector<std::string> parts_of_path(const std::string& path) {
    std::vector<std::string> out;
    for (std::size_t at = 0; at < path.size();) {
        const std::size_t end = std::min(path.find('/', at), path.size());
        if (end > at) out.push_back(path.substr(at, end - at));
        at = end + 1;
    }
    return out;
}

/// nullopt for what is no column of a table.
std::optional<H5Column::Kind> kind_of(hid_t type) {
    using Kind = H5Column::Kind;
    switch (H5Tget_class(type)) {
        case H5T_FLOAT:
            return H5Tget_size(type) <= 4 ? Kind::real32 : Kind::real64;
        case H5T_INTEGER:
            if (H5Tget_size(type) > 8) return std::nullopt;
            return H5Tget_sign(type) == H5T_SGN_NONE ? Kind::whole_unsigned : Kind::whole;
        case H5T_ENUM:
            return Kind::whole;
        case H5T_STRING:
            return Kind::text;
        default:
            return std::nullopt;
    }
}

class Walk {
  public:
    explicit Walk(std::uint64_t file_size) : file_size_(file_size) {}

    Result<H5Tree> through(hid_t file) {
        const h5::Handle root(H5Gopen2(file, "/", H5P_DEFAULT), H5Gclose);
        if (!root.ok() || !enter(root, "", 0))
            return fail(ErrorCode::bad_input,
                        "The HDF5 file has more than " + std::to_string(most_tree_columns) +
                            " columns, groups within groups without end, or cannot be read. Export fewer channels.");
        name_lists();
        name_pairs();
        name_all();
        return std::move(tree_);
    }

  private:
    bool enter(hid_t group, const std::string& path, std::size_t depth) {
        H5G_info_t info{};
        if (depth > deepest_group || H5Gget_info(group, &info) < 0) return false;
        tree_.groups[path] = attributes_of(group);
        for (hsize_t i = 0; i < info.nlinks; ++i) {
            if (++objects_ > most_objects) return false;
            char name[1024] = "";
            H5L_info_t link{};
            const auto by = H5_INDEX_NAME;
            if (H5Lget_info_by_idx(group, ".", by, H5_ITER_INC, i, &link, H5P_DEFAULT) < 0 ||
                H5Lget_name_by_idx(group, ".", by, H5_ITER_INC, i, name, sizeof name, H5P_DEFAULT) < 0)
                return false;
            const std::string at = path + "/" + name;
            if (link.type == H5L_TYPE_EXTERNAL) leave_out(at, "it is a link to another file");
            // What a soft link leads to is met where it lies. "#refs#" and the like are a program's own affairs.
            if (link.type != H5L_TYPE_HARD || name[0] == '#') continue;
            const h5::Handle object(H5Oopen_by_idx(group, ".", by, H5_ITER_INC, i, H5P_DEFAULT), H5Oclose);
            H5O_info_t what{};
            if (!object.ok() || H5Oget_info(object, &what) < 0) {
                leave_out(at, "it cannot be read");
                continue;
            }
            if (!met_.insert(what.addr).second) continue;
            if (what.type == H5O_TYPE_GROUP && !enter(object, at, depth + 1)) return false;
            if (what.type == H5O_TYPE_DATASET && !look_at(object, path, name)) return false;
        }
        return true;
    }

    void leave_out(const std::string& path, const std::string& why) { tree_.leave_out(printable(path), why); }

    /// Why a data set's bytes are not touched; empty: they may be read.
    [[nodiscard]] std::string obstacle(hid_t set, hid_t type, hsize_t count) const {
        const h5::Handle creation(H5Dget_create_plist(set), H5Pclose);
        const auto layout = H5Pget_layout(creation);
        if (H5Pget_external_count(creation) != 0) return "it is stored in another file";
        if (layout != H5D_CONTIGUOUS && layout != H5D_CHUNKED && layout != H5D_COMPACT)
            return "it is made of other sets";
        H5D_space_status_t status{};
        if (H5Dget_space_status(set, &status) < 0 || status == H5D_SPACE_STATUS_NOT_ALLOCATED)
            return "it was never written";
        if (layout == H5D_CHUNKED) {
            hsize_t chunk[2] = {1, 1};
            if (H5Pget_chunk(creation, 2, chunk) < 1 || chunk[0] > h5::largest_chunk_bytes ||
                chunk[1] > h5::largest_chunk_bytes || chunk[0] * chunk[1] > h5::largest_chunk_bytes / H5Tget_size(type))
                return "it has chunks of more than 64 MB";
        }
        for (int i = 0; i < H5Pget_nfilters(creation); ++i) {
            unsigned flags = 0, settings = 0;
            std::size_t values = 0;
            const auto filter =
                H5Pget_filter2(creation, static_cast<unsigned>(i), &flags, &values, nullptr, 0, nullptr, &settings);
            if (filter != H5Z_FILTER_DEFLATE && filter != H5Z_FILTER_SHUFFLE && filter != H5Z_FILTER_FLETCHER32 &&
                filter != H5Z_FILTER_NBIT && filter != H5Z_FILTER_SCALEOFFSET)
                return "it is packed in a way that Rendak does not read";
        }
        // Deflate never packs better than 1 : 1032: what claims more is not in the file.
        if (count / 1032 > file_size_) return "it is cut off";
        return {};
    }

    bool look_at(hid_t object, const std::string& group, const std::string& name) {
        const std::string path = group + "/" + name;
        const h5::Handle space(H5Dget_space(object), H5Sclose);
        const h5::Handle type(H5Dget_type(object), H5Tclose);
        const int rank = space.ok() ? H5Sget_simple_extent_ndims(space) : -1;
        if (rank < 0 || !type.ok()) {
            leave_out(path, "it cannot be read");
            return true;
        }
        const auto npoints = H5Sget_simple_extent_npoints(space);
        if (npoints <= 0) return true;
        const H5Facts facts = attributes_of(object);
        // Texts that another program keeps as numbers.
        if (facts.text({"matlabclass"}) == "char") return true;
        hsize_t shape[2] = {1, 1};
        if (rank > 2) {
            leave_out(path, "it has " + std::to_string(rank) + " dimensions");
            return true;
        }
        H5Sget_simple_extent_dims(space, shape, nullptr);
        const auto elements = static_cast<hsize_t>(npoints);
        if (const std::string why = obstacle(object, type, elements); !why.empty()) {
            leave_out(path, why);
            return true;
        }
        if (elements == 1) return take_fact(object, type, group, name);
        H5Set set;
        set.path = path;
        set.group = group;
        set.is_flat = rank == 1;
        set.rows = shape[0];
        set.width = rank == 2 ? shape[1] : 1;
        // Where names do not tell it, what is wider than long has its samples along the second dimension: hardly
        // anybody has more channels than samples.
        const std::size_t named = facts.list(list_words).size();
        if (rank == 2 && (shape[1] > shape[0] ? named != shape[1] : named == shape[0] && shape[0] != shape[1])) {
            set.rows_are_second = true;
            std::swap(set.rows, set.width);
        }
        if (H5Tget_class(type) == H5T_STRING && set.width == 1 && elements <= most_tree_columns)
            tree_.groups[group].add(folded(name), texts_in(object, false));
        if (set.width > most_tree_columns) {
            leave_out(path, "it has " + std::to_string(set.width) + " columns");
            return true;
        }
        if (!add_columns(set, type, facts, name)) return true;
        columns_ += set.columns.size();
        tree_.sets.push_back(std::move(set));
        return columns_ <= most_tree_columns;
    }

    /// One value is no column: it says something of its group.
    bool take_fact(hid_t object, hid_t type, const std::string& group, const std::string& name) {
        H5Facts& facts = tree_.groups[group];
        const auto kind = kind_of(type);
        if (kind == H5Column::Kind::text) facts.add(folded(name), texts_in(object, false));
        double value = 0;
        if (kind && *kind != H5Column::Kind::text &&
            H5Dread(object, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, &value) >= 0)
            facts.numbers.emplace(folded(name), value);
        return true;
    }

    /// False: nothing of it is a column.
    bool add_columns(H5Set& set, hid_t type, const H5Facts& facts, const std::string& name) {
        const H5Facts& around = tree_.groups[set.group];
        // "/speed/data" and "/0012/samples": the group is the channel and says what it is.
        const bool by_group = is_plain_leaf(name) && !set.group.empty();
        H5Column plain;
        plain.unit = facts.text(unit_words);
        if (plain.unit.empty() && by_group) plain.unit = around.text(unit_words);
        plain.name = facts.text(name_words);
        if (plain.name.empty() && by_group) plain.name = around.text(name_words);
        set.rate_hz = rate_of(facts);
        if (!set.rate_hz && by_group) set.rate_hz = rate_of(around);
        const auto start_words = {"starts", "start", "t0", "starttime", "starttimes", "timeoffset", "timeoffsets"};
        auto start = facts.number(start_words);
        if (!start && by_group) start = around.number(start_words);
        set.start_s = start.value_or(0);
        if (const std::string why = take_scale(facts, plain); !why.empty()) {
            leave_out(set.path, why);
            return false;
        }
        set.unit = plain.unit;
        const auto units = facts.list(unit_words);
        const auto names = facts.list(list_words);
        if (H5Tget_class(type) == H5T_COMPOUND) {
            if (set.width != 1) {
                leave_out(set.path, "its records have two dimensions");
                return false;
            }
            const int members = H5Tget_nmembers(type);
            for (int m = 0; m < members; ++m) {
                const h5::Handle member(H5Tget_member_type(type, static_cast<unsigned>(m)), H5Tclose);
                char* text = H5Tget_member_name(type, static_cast<unsigned>(m));
                H5Column column = plain;
                column.member = text == nullptr ? "" : text;
                H5free_memory(text);
                const auto kind = member.ok() ? kind_of(member) : std::nullopt;
                if (!kind || (*kind == H5Column::Kind::text && H5Tis_variable_str(member) > 0)) {
                    leave_out(set.path + "/" + column.member, "it holds neither numbers nor texts of one length");
                    continue;
                }
                column.kind = *kind;
                column.name = column.member;
                const auto m_of = static_cast<std::size_t>(m);
                const std::string own = folded(column.member);
                column.unit = facts.text({(own + "unit").c_str(), (own + "units").c_str()});
                if (column.unit.empty() && units.size() == static_cast<std::size_t>(members)) column.unit = units[m_of];
                column.is_time = is_time(column.name);
                set.columns.push_back(std::move(column));
            }
            return !set.columns.empty();
        }
        const auto kind = kind_of(type);
        if (!kind) {
            leave_out(set.path, "it holds neither numbers nor texts");
            return false;
        }
        plain.kind = *kind;
        if (set.width == 1) {
            plain.is_time =
                is_time(name) || is_time(plain.name) || (by_group && is_time(parts_of_path(set.group).back()));
            set.columns.push_back(std::move(plain));
            return true;
        }
        if (*kind == H5Column::Kind::text) {
            leave_out(set.path, "it holds a table of texts");
            return false;
        }
        for (std::size_t c = 0; c < set.width; ++c) {
            H5Column column = plain;
            column.across = c;
            column.name = names.size() == set.width ? printable(names[c]) : "";
            column.unit = units.size() == set.width ? printable(units[c]) : names.empty() ? plain.unit : "";
            column.is_time = is_time(column.name);
            set.columns.push_back(std::move(column));
        }
        return true;
    }

    static bool is_named_time(std::string_view text) {
        const Quantity* quantity = match_quantity(text);
        return quantity != nullptr && quantity->id == "time";
    }

    /// "time", "time_s", "Time [ms]", "time_100hz", "fast_time"
    static bool is_time(std::string_view name) {
        const std::string text = without_unit(name);
        if (is_named_time(text)) return true;
        const auto first = text.find_first_of("_ -"), last = text.find_last_of("_ -");
        if (first == std::string::npos) return false;
        return (is_named_time(text.substr(0, first)) && is_plain_group(text.substr(first + 1))) ||
               (is_named_time(text.substr(last + 1)) && is_plain_group(text.substr(0, last)));
    }

    /// "time_s", "Time [ms]"
    static std::string without_unit(std::string_view name) {
        std::string text(name.substr(0, name.find_first_of("[({")));
        for (const char* unit : {"_s", "_ms", "_us", "_ns", "_sec", " s", " ms"}) {
            if (lower(text).ends_with(unit)) return text.substr(0, text.size() - std::string_view(unit).size());
        }
        return text;
    }

    /// The climate and forecast conventions' scale, offset and missing value. Other words for a scale are not taken on
    /// trust: nobody can tell whether the numbers are scaled already.
    static std::string take_scale(const H5Facts& facts, H5Column& column) {
        column.factor = facts.number({"scalefactor"}).value_or(1);
        column.offset = facts.number({"addoffset"}).value_or(0);
        column.missing = facts.number({"fillvalue", "missingvalue"});
        for (const char* word : {"scale", "gain", "factor", "multiplier", "slope", "conversionfactor"}) {
            const auto value = facts.number({word});
            if (value && *value != 1)
                return "it says of itself \"" + std::string(word) + "\" " + short_number(*value) +
                       ", and not whether its numbers are to be multiplied by that; export the values as they are";
        }
        for (const char* word : {"intercept", "bias"}) {
            const auto value = facts.number({word});
            if (value && *value != 0)
                return "it says of itself \"" + std::string(word) + "\" " + short_number(*value) +
                       ", and not whether that is to be added; export the values as they are";
        }
        return {};
    }

    /// The names of a table's columns may stand beside it, in a data set of texts of the same number.
    void name_lists() {
        for (H5Set& set : tree_.sets) {
            if (set.is_flat || set.width < 2 || !set.columns[0].name.empty()) continue;
            const H5Facts& around = tree_.groups[set.group];
            const std::vector<std::string>* found = nullptr;
            for (const auto& [key, texts] : around.lists) {
                if (texts.size() != set.width) continue;
                const bool of_it = key.starts_with(folded(set.path.substr(set.path.rfind('/') + 1).substr(0, 6)));
                const bool by_word = std::find(list_words.begin(), list_words.end(), key) != list_words.end();
                if (found == nullptr || of_it || by_word) found = &texts;
            }
            for (H5Column& column : set.columns) {
                if (found != nullptr) column.name = printable((*found)[column.across]);
                column.is_time = is_time(column.name);
            }
        }
        // They are names, and no channel of texts.
        std::erase_if(tree_.sets, [&](const H5Set& set) {
            return set.columns[0].kind == H5Column::Kind::text && set.columns[0].member.empty() &&
                   !set.columns[0].is_time && set.rows <= most_tree_columns;
        });
    }

    /// A time and a "value": the data set is the channel, and its unit that of the value.
    void name_pairs() {
        for (H5Set& set : tree_.sets) {
            if (set.columns.size() != 2 || set.columns[0].is_time == set.columns[1].is_time) continue;
            H5Column& value = set.columns[set.columns[0].is_time ? 1 : 0];
            if (!is_plain_leaf(value.member.empty() ? value.name : value.member)) continue;
            value.named_by_set = true;
            if (value.unit.empty()) value.unit = set.unit;
        }
    }

    void name_all() {
        std::map<std::string, int> used;
        const auto for_all = [&](const auto& what) {
            for (H5Set& set : tree_.sets) {
                for (H5Column& column : set.columns) what(set, column);
            }
        };
        for_all([&](const H5Set& set, H5Column& column) {
            column.name = name_in(set, column);
            ++used[column.is_time ? "" : lower(column.name)];
        });
        // Where two would be called the same, all of the way to them is told.
        for_all([&](const H5Set& set, H5Column& column) {
            if (column.is_time || used[lower(column.name)] < 2) return;
            column.name = set.path.substr(1);
            if (!column.member.empty()) column.name += "/" + column.member;
            if (column.member.empty() && set.width > 1) column.name += " " + std::to_string(column.across + 1);
        });
    }

    static std::string name_in(const H5Set& set, const H5Column& column) {
        auto parts = parts_of_path(set.path);
        const std::string leaf = parts.empty() ? "" : parts.back();
        const bool has_columns = !column.member.empty() || set.width > 1;
        if (has_columns || (is_plain_leaf(leaf) && parts.size() > 1)) parts.pop_back();
        std::string own = column.member;
        if (own.empty()) own = column.name;
        if (!has_columns) {
            own = parts.back();
            parts.pop_back();
            // A number, or a word that nobody knows, beside a name that says more.
            const bool counted = folded(own).find_first_not_of("0123456789ch") == std::string::npos ||
                                 all_digits(folded(own).substr(std::min<std::size_t>(7, folded(own).size())));
            if (!column.name.empty() &&
                (counted || (match_quantity(own) == nullptr && match_quantity(column.name) != nullptr)))
                own = column.name;
        }
        if (column.named_by_set) {
            own = leaf;
            if (is_plain_leaf(leaf) && !parts.empty()) {
                own = parts.back();
                parts.pop_back();
            }
        }
        if (own.empty()) own = leaf + " " + std::to_string(column.across + 1);
        if (all_digits(own)) own = "Channel " + own;
        // "time_100hz" is a name that tables do not know.
        if (column.is_time) return column.unit.empty() && is_named_time(without_unit(own)) ? printable(own) : "time";
        std::string way;
        for (const std::string& part : parts) {
            if (!is_plain_group(part)) way += part + "/";
        }
        return printable(way + own);
    }

    std::uint64_t file_size_;
    H5Tree tree_;
    std::set<haddr_t> met_;
    std::size_t objects_ = 0, columns_ = 0;
};

}  // namespace

void H5Tree::leave_out(const std::string& name, const std::string& why) {
    if (left_out.size() >= 50)
        ++more_left_out;
    else
        left_out.push_back("\"" + name + "\" was left out: " + why + ".");
}

Result<H5Tree> walk_h5(hid_t file, std::uint64_t file_size) {
    return Walk(file_size).through(file);
}

}  // namespace rendak
