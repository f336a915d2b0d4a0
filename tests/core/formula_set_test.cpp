#include <gtest/gtest.h>

#include "core/formula/book.h"
#include "core/intake/run_formulas.h"
#include "tests/support/temp_folder.h"

namespace rendak::formula {
namespace {

const FormulaSet mine{"Mine",
                      {Scope::Kind::car, "27"},
                      "ours",
                      {{"roll_rate", "°/s", "gradient(roll)", "a comment", 1, Interval{-50, 50}, 100},
                       {"half", "", "speed / 2", ""},
                       {"same_one", "", "speed", ""}}};
const FormulaSet theirs{
    "Mine",
    {},
    "",
    {{"half", "", "speed * 0.5", ""}, {"same_one", "", "speed", ""}, {"uses_half", "", "half + half", ""}}};

TEST(FormulaSets, TravelAsOneJsonFile) {
    const auto back = set_from_json(set_to_json(mine), "test");
    ASSERT_TRUE(back) << back.error().text();
    EXPECT_EQ(*back, mine);
    const auto starter = set_from_json(set_to_json(starter_set()), "test");
    ASSERT_TRUE(starter);
    EXPECT_EQ(*starter, starter_set());
}

TEST(FormulaSets, BadFilesAreRefusedWithAReason) {
    const auto problem = [](const std::string& text) {
        const auto set = set_from_json(text, "bad.json");
        return set ? std::string() : set.error().text();
    };
    EXPECT_NE(problem("").find("bad.json: This is no formula set"), std::string::npos);
    EXPECT_NE(problem("[1,2]").find("no formula set"), std::string::npos);
    EXPECT_NE(problem(R"({"rendak":"formula set","version":2,"name":"x","formulas":[]})").find("newer version"),
              std::string::npos);
    EXPECT_NE(problem(R"({"rendak":"formula set","name":"x"})").find("no list"), std::string::npos);
    EXPECT_NE(problem(R"({"rendak":"formula set","name":"x","formulas":[{"name":"speed","formula":"1"}]})")
                  .find("what loggers measure"),
              std::string::npos);
    EXPECT_NE(problem(R"({"rendak":"formula set","name":"x","formulas":[{"name":"a b","formula":"1"}]})")
                  .find("How about a_b?"),
              std::string::npos);
    EXPECT_NE(
        problem(
            R"({"rendak":"formula set","name":"x","formulas":[{"name":"a","formula":"1"},{"name":"a","formula":"2"}]})")
            .find("twice"),
        std::string::npos);
    EXPECT_NE(problem(std::string(500'000, '[')).find("no formula set"), std::string::npos);
}

TEST(FormulaSets, OneFormulaTravelsAsText) {
    for (const Formula& formula : mine.formulas) {
        const auto back = formula_from_text(formula_to_text(formula));
        ASSERT_TRUE(back) << formula_to_text(formula) << ": " << back.error().text();
        EXPECT_EQ(*back, formula);
    }
    const auto pasted =
        formula_from_text("  # slip of the front left\n front_slip in % from -20 to 20 = wheel_speed_fl / speed - 1 ");
    ASSERT_TRUE(pasted);
    EXPECT_EQ(pasted->name, "front_slip");
    EXPECT_EQ(pasted->unit, "%");
    EXPECT_EQ(pasted->range, (Interval{-20, 20}));
    EXPECT_EQ(pasted->comment, "slip of the front left");
    EXPECT_EQ(pasted->text, "wheel_speed_fl / speed - 1");
    EXPECT_FALSE(formula_from_text("speed * 2"));
    EXPECT_FALSE(formula_from_text("x into km/h = speed"));
    EXPECT_FALSE(formula_from_text("x ="));
    EXPECT_FALSE(formula_from_text("speed = 3"));
    EXPECT_FALSE(formula_from_text("x from 3 to 1 = speed"));
}

TEST(FormulaSets, ImportShowsNewEqualAndClashing) {
    const auto changes = differences(mine, theirs);
    std::map<std::string, SetChange::Kind> kinds;
    for (const SetChange& it : changes) kinds[it.name] = it.kind;
    EXPECT_EQ(kinds.at("half"), SetChange::Kind::changed);
    EXPECT_EQ(kinds.at("same_one"), SetChange::Kind::same);
    EXPECT_EQ(kinds.at("uses_half"), SetChange::Kind::added);
    EXPECT_EQ(kinds.at("roll_rate"), SetChange::Kind::removed);
}

TEST(FormulaSets, MergingNeverOverwritesUnasked) {
    EXPECT_EQ(merged(mine, theirs, {}), mine);
    EXPECT_EQ(merged(mine, theirs, {{"half", Merge::keep}}).find("half")->text, "speed / 2");
    EXPECT_EQ(merged(mine, theirs, {{"half", Merge::take}}).find("half")->text, "speed * 0.5");
    const FormulaSet both = merged(mine, theirs, {{"half", Merge::take_both}, {"uses_half", Merge::take}});
    EXPECT_EQ(both.find("half")->text, "speed / 2");
    ASSERT_NE(both.find("half_2"), nullptr);
    EXPECT_EQ(both.find("half_2")->text, "speed * 0.5");
    EXPECT_EQ(both.find("uses_half")->text, "half_2 + half_2");  // theirs goes on using theirs
    EXPECT_NE(both.find("roll_rate"), nullptr);
}

TEST(FormulaSets, RenamingFollowsNamesOnly) {
    EXPECT_EQ(renamed_in("half + car.half * halfway - f(half=half)", "half", "x"),
              "x + car.half * halfway - f(half=x)");
}

TEST(FormulaSets, VersionsAreKeptAndCanBeGoneBackTo) {
    test::TempFolder folder;
    auto library = std::move(*Library::open(folder.path()));
    EXPECT_EQ(*library->add_formula_version("Mine", set_to_json(mine), "first"), 1);
    FormulaSet next = mine;
    next.formulas[1].text = "speed / 3";
    EXPECT_EQ(*library->add_formula_version("Mine", set_to_json(next), "second"), 2);
    ASSERT_EQ(library->formula_sets().value().size(), 1u);
    EXPECT_EQ(formula_sets(*library).value().front(), next);
    const auto history = library->formula_history("Mine").value();
    ASSERT_EQ(history.size(), 2u);
    EXPECT_EQ(history[0].note, "second");
    EXPECT_EQ(*set_from_json(history[1].content, ""), mine);
    ASSERT_TRUE(library->drop_formula_version("Mine"));
    EXPECT_EQ(formula_sets(*library).value().front(), mine);
    ASSERT_TRUE(library->remove_formula_set("Mine"));
    EXPECT_TRUE(library->formula_sets().value().empty());
    ASSERT_TRUE(library->restore_formula_set(history));
    EXPECT_EQ(formula_sets(*library).value().front(), next);
    EXPECT_FALSE(library->add_formula_version("", "", ""));
}

TEST(FormulaSets, EventWinsOverCarOverEverythingOverShipped) {
    const auto set = [](const char* name, Scope scope, const char* text) {
        return FormulaSet{name, std::move(scope), "", {{"braking", "", text, ""}}};
    };
    const std::vector<FormulaSet> sets{set("E", {Scope::Kind::event, "Test day"}, "1 == 1"),
                                       set("C", {Scope::Kind::car, "27"}, "2 == 2"), set("A", {}, "3 == 3")};
    EXPECT_EQ(book_for(sets, "27", "Test day").entries.at("braking").set, "E");
    EXPECT_EQ(book_for(sets, "27", "Race").entries.at("braking").set, "C");
    EXPECT_EQ(book_for(sets, "99", "Race").entries.at("braking").set, "A");
    EXPECT_EQ(book_for({}, "99", "Race").entries.at("braking").set, starter_name);
}

TEST(FormulaSets, AHostileSetNeitherHangsNorCrashes) {
    FormulaSet chain{"Chain"};
    for (int i = 0; i < 900; ++i)
        chain.formulas.push_back({"link_" + std::to_string(i), "",
                                  "link_" + std::to_string(i + 1) + " + link_" + std::to_string(i + 1), ""});
    chain.formulas.push_back({"link_900", "", "speed", ""});
    const Book book = book_for({chain}, "", "");
    const Constants constants;
    const Aliases aliases;
    Resolver resolver(book, constants, aliases, nullptr);
    const auto& first = resolver.checked("link_0");
    ASSERT_FALSE(first);
    EXPECT_NE(first.error().sentence.find("More than 100 formulas"), std::string::npos);
    // From the near end too: a hundred links hold, more do not.
    Resolver near(book, constants, aliases, nullptr);
    for (int i = 900; i >= 0; --i) EXPECT_EQ(near.checked("link_" + std::to_string(i)).has_value(), i >= 800) << i;
    EXPECT_EQ(near.fingerprint("link_810").size(), 64u);
}

TEST(FormulaSets, WhoUsesWhat) {
    const auto users = users_of(book_for({mine}, "27", ""));
    EXPECT_EQ(users.at("roll"), (std::vector<std::string>{"roll_rate"}));
    EXPECT_FALSE(users.at("braking").empty());
}

}  // namespace
}  // namespace rendak::formula
