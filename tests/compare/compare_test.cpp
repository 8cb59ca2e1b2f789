// Whether two descriptions are the same game: held against play by hand, on demo games written in
// another way, and on small descriptions that differ in one thing.
#include "orchard/compare.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fmt/core.h>

#include <map>
#include <optional>
#include <set>
#include <stop_token>

#include "orchard/random.hpp"
#include "orchard/summary.hpp"
#include "support/files.hpp"
#include "support/play.hpp"
#include "support/random_rules.hpp"
#include "support/rewriting.hpp"

namespace orchard::compare_test {
namespace {

using ::testing::HasSubstr;
using testing::load;
using Verdict = Comparison::Verdict;

Game rewritten(const std::string& name, std::map<std::string, std::int64_t> sizes = {}) {
  LoadOptions options;
  options.sizes = std::move(sizes);
  return Game::load(testing::source_path("games/rewritten/" + name + ".gdl"), options).value();
}

Comparison compared(const Game& first, const Game& second, const std::string& names = {},
                    std::optional<std::uint64_t> positions = {}) {
  CompareOptions options;
  options.budget.positions = positions;
  options.renaming = Renaming::from_text(names).value();
  return compare_games(first, second, options).value();
}

TEST(Compare, TwoHandsWroteTheSameSmallGame) {
  const auto found =
      compared(load("espalier_3x3"), rewritten("espalier_by_facts", {{"rows", 3}, {"columns", 3}}));
  EXPECT_EQ(found.verdict, Verdict::same);
  EXPECT_FALSE(found.proved);
  EXPECT_EQ(found.positions, 2545u);
  EXPECT_EQ(found.ending, Ending::complete);
}

TEST(Compare, WhatCannotBeExploredIsProved) {
  const std::map<std::string, std::int64_t> sizes = {{"rows", 6}, {"columns", 6}};
  const auto found =
      compared(load("espalier", sizes), rewritten("espalier_by_facts", sizes), {}, 5000);
  EXPECT_EQ(found.verdict, Verdict::same);
  EXPECT_TRUE(found.proved);
  EXPECT_NE(found.ending, Ending::complete);
}

TEST(Compare, OneWrongLineShowsInTheFewestPlies) {
  for (const std::int64_t size : {3, 6}) {
    const std::map<std::string, std::int64_t> sizes = {{"rows", size}, {"columns", size}};
    const Game first = load("espalier", sizes);
    const Game second = rewritten("espalier_wrong_edge", sizes);
    const auto found = compared(first, second);
    ASSERT_EQ(found.verdict, Verdict::different);
    EXPECT_TRUE(found.shortest);
    ASSERT_TRUE(found.first_line && found.second_line);
    EXPECT_EQ(found.first_line->joints.size(), 7u);  // nobody has four branches before
    EXPECT_TRUE(first.terminal(found.first_line->last()));
    EXPECT_FALSE(second.terminal(found.second_line->last()));
    ASSERT_EQ(found.differences.size(), 1u);
    EXPECT_EQ(found.differences[0].kind, Difference::Kind::end);
    EXPECT_TRUE(found.differences[0].in_first);
  }
}

TEST(Compare, TheSameRulesNeedNoLook) {
  const auto found = compared(load("silo"), load("silo"));
  EXPECT_EQ(found.verdict, Verdict::same);
  EXPECT_TRUE(found.same_rules);
  EXPECT_EQ(found.positions, 0u);
}

TEST(Compare, WhatPlayNeverAsksForMakesNoDifference) {
  const Game first = load("graft");
  const Game second =
      Game::from_text(testing::read_file(testing::game_path("graft")) + "\n(idle word)\n").value();
  const auto found = compared(first, second);
  EXPECT_EQ(found.verdict, Verdict::same);
  EXPECT_TRUE(found.proved);
  EXPECT_FALSE(found.same_rules);
  EXPECT_EQ(found.positions, 0u);
  // A stone more is asked for.
  const Game stone =
      Game::from_text(testing::read_file(testing::game_path("graft")) + "\n(stone 1 1)\n").value();
  const auto other = compared(first, stone);
  EXPECT_EQ(other.verdict, Verdict::different);
}

TEST(Compare, WhatComesToTheSameGatesIsProvedWithoutALook) {
  const std::string rules = testing::read_file(testing::game_path("stakes"));
  LoadOptions small;
  small.sizes = {{"rows", 4}, {"columns", 4}};
  const Game first = Game::from_text(rules, "stakes", small).value();
  const auto with = [&](const std::string& from, const std::string& to) {
    std::string text = rules;
    const std::size_t at = text.find(from);
    EXPECT_NE(at, std::string::npos);
    text.replace(at, from.size(), to);
    return compared(first, Game::from_text(text, "stakes", small).value(), {}, 1000);
  };
  // The chain of leads goes on behind the last bed, where nobody asks.
  const auto same = with("(follows ?last ?bed)\n    (bed ?bed)", "(follows ?last ?bed)");
  EXPECT_EQ(same.verdict, Verdict::same);
  EXPECT_TRUE(same.proved);
  EXPECT_EQ(same.positions, 0u);
  // Next values and moves are the same gates here; one end is worth something else.
  const auto other = with("(lead_from 0 beds)", "(lead_from 1 beds)");
  EXPECT_NE(other.verdict, Verdict::same);
}

// ---- Against play by hand, with the judge that knows nothing of circuits ----

// What can be seen of a position: whether it is an end, its goals, what is legal.
std::string seen(const Game& game, const Position& position) {
  std::string text = game.terminal(position) ? "end" : "open";
  for (const Role& role : game.roles()) {
    text += "|";
    if (game.terminal(position)) {
      for (const Term& goal : game.goals(position, role)) text += goal.to_string() + " ";
    } else {
      for (const Move& move : game.legal(position, role)) text += move.to_string() + " ";
    }
  }
  return text;
}

JointMove in(const Game& game, const JointMove& joint) {
  JointMove result;
  for (const Move& move : joint) result.add(game.move(move.term()));
  return result;
}

struct Judged {
  bool same = true;
  std::size_t depth = 0;  // of the first difference
};
// Breadth first through pairs of positions; nothing if there are too many.
std::optional<Judged> by_hand(const Game& first, const Game& second, std::size_t most) {
  std::vector<std::pair<Position, Position>> layer{{first.initial(), second.initial()}};
  std::set<std::string> known;
  for (std::size_t depth = 0; !layer.empty(); ++depth) {
    std::vector<std::pair<Position, Position>> next;
    for (const auto& [a, b] : layer) {
      if (seen(first, a) != seen(second, b)) return Judged{false, depth};
      if (first.terminal(a)) continue;
      std::vector<JointMove> joints{JointMove()};
      for (const Role& role : first.roles()) {
        std::vector<JointMove> longer;
        for (const JointMove& joint : joints) {
          for (const Move& move : first.legal(a, role)) {
            longer.push_back(joint);
            longer.back().add(move);
          }
        }
        joints = std::move(longer);
      }
      for (const JointMove& joint : joints) {
        next.emplace_back(first.next(a, joint).value(), second.next(b, in(second, joint)).value());
        const auto& [x, y] = next.back();
        if (!known.insert(x.to_string() + y.to_string()).second) next.pop_back();
      }
      if (known.size() > most) return std::nullopt;
    }
    layer = std::move(next);
  }
  return Judged{};
}

// The rules with one condition or one rule left out.
std::string mutilated(const std::string& rules, Random& random) {
  std::vector<std::string> lines;
  for (std::size_t at = 0; at < rules.size();) {
    const std::size_t end = rules.find('\n', at);
    lines.push_back(rules.substr(at, end - at));
    at = end + 1;
  }
  const std::size_t chosen = random.below(lines.size());
  std::string text;
  for (std::size_t l = 0; l < lines.size(); ++l) {
    if (l != chosen || lines[l].starts_with("(role")) text += lines[l] + "\n";
  }
  return text;
}

TEST(Compare, SaysWhatPlayByHandSays) {
  std::map<bool, int> judged;
  for (std::uint64_t seed = 0; seed < 600; ++seed) {
    SCOPED_TRACE(seed);
    const std::string rules = testing::random_rules(seed);
    Random random(seed);
    const auto first = Game::from_text(rules);
    const auto second = Game::from_text(mutilated(rules, random));
    ASSERT_TRUE(first.ok());
    if (!second.ok()) continue;
    if (first->has_hidden_information() != second->has_hidden_information()) continue;
    const auto expected = by_hand(*first, *second, 400);
    if (!expected) continue;
    CompareOptions options;
    const auto found = compare_games(*first, *second, options);
    ASSERT_TRUE(found.ok()) << found.diagnostics().render();
    if (first->has_hidden_information() && found->verdict == Verdict::different &&
        found->differences.front().kind == Difference::Kind::percept) {
      continue;  // what is not looked at by hand
    }
    ASSERT_EQ(found->verdict, expected->same ? Verdict::same : Verdict::different) << rules;
    ++judged[expected->same];
    if (expected->same) continue;
    ASSERT_TRUE(found->first_line);
    EXPECT_EQ(found->first_line->joints.size(), expected->depth) << rules;
    EXPECT_FALSE(found->differences.empty());
  }
  EXPECT_GT(judged[true], 50);
  EXPECT_GT(judged[false], 50);
}

// ---- Other names ----

constexpr std::string_view pots = R"(
  (role ann) (role ben)
  (init (pot 1 bare)) (init (pot 2 bare)) (init (turn ann))
  (<= (legal ?who (fill ?pot ?what)) (true (turn ?who)) (true (pot ?pot bare)) (seed ?what))
  (<= (legal ?who wait) (role ?who) (not (true (turn ?who))))
  (seed bean) (seed pea)
  (<= (next (pot ?pot ?what)) (does ?_who (fill ?pot ?what)))
  (<= (next (pot ?pot ?what)) (true (pot ?pot ?what)) (not (filled ?pot)))
  (<= (filled ?pot) (does ?_who (fill ?pot ?_what)))
  (<= (next (turn ben)) (true (turn ann)))
  (<= (next (turn ann)) (true (turn ben)))
  (<= room (true (pot ?_pot bare)))
  (<= terminal (not room))
  (<= (goal ?who 100) (role ?who) (true (pot 1 pea)))
  (<= (goal ?who 0) (role ?who) (not (true (pot 1 pea)))))";

constexpr std::string_view beds = R"(
  (role ben) (role cas)
  (init (sown 1 nothing)) (init (sown 2 nothing)) (init ben)
  (<= (moves ben) (true ben))
  (<= (moves cas) (not (true ben)))
  (<= (legal ?who (sow ?what in ?bed)) (moves ?who) (true (sown ?bed nothing)) (kind ?what))
  (<= (legal ?who wait) (role ?who) (not (moves ?who)))
  (kind maize) (kind pea)
  (<= (next (sown ?bed ?what)) (does ?_who (sow ?what in ?bed)))
  (<= (next (sown ?bed ?what)) (true (sown ?bed ?what)) (not (changed ?bed)))
  (<= (changed ?bed) (does ?_who (sow ?_what in ?bed)))
  (<= (next ben) (not (true ben)))
  (<= open (true (sown ?_bed nothing)))
  (<= terminal (not open))
  (<= (goal ?who 100) (role ?who) (true (sown 1 pea)))
  (<= (goal ?who 0) (role ?who) (not (true (sown 1 pea)))))";

// `ben` is another role in either.
constexpr const char* pots_to_beds = R"(
  (name ann ben) (name ben cas) (name bean maize)
  (move (fill ?pot ?what) (sow ?what in ?pot)))";

TEST(Compare, FollowsARenaming) {
  const Game first = Game::from_text(std::string(pots)).value();
  const Game second = Game::from_text(std::string(beds)).value();
  EXPECT_EQ(compared(first, second, pots_to_beds).verdict, Verdict::same);
  const Renaming back = Renaming::from_text(pots_to_beds).value().swapped();
  CompareOptions options;
  options.renaming = back;
  EXPECT_EQ(compare_games(second, first, options)->verdict, Verdict::same);
}

TEST(Compare, SummariesSpeakOfTheSameThings) {
  const Game first = Game::from_text(std::string(pots)).value();
  const Game second = Game::from_text(std::string(beds)).value();
  const GameSummary own = summarize(first).value();
  const GameSummary other = summarize(second).value();
  EXPECT_NE(own.moves, other.moves);
  const GameSummary renamed = in_words_of_first(other, Renaming::from_text(pots_to_beds).value());
  EXPECT_EQ(own.roles, renamed.roles);
  EXPECT_EQ(own.moves, renamed.moves);
  EXPECT_EQ(own.positions, renamed.positions);
  EXPECT_THAT(own.moves, ::testing::Contains("ann (fill 1 bean)"));
}

TEST(Compare, AWrongRenamingIsAnotherGame) {
  const Game first = Game::from_text(std::string(pots)).value();
  const Game second = Game::from_text(std::string(beds)).value();
  const auto without = compared(first, second);
  ASSERT_EQ(without.verdict, Verdict::different);
  EXPECT_EQ(without.differences.front().kind, Difference::Kind::roles);
  EXPECT_FALSE(without.first_line);
  // Bean for pea: the goals are told apart, in two plies.
  const auto crossed = compared(first, second, R"((name ann ben) (name ben cas) (name bean pea)
      (name pea maize) (move (fill ?pot ?what) (sow ?what in ?pot)))");
  ASSERT_EQ(crossed.verdict, Verdict::different);
  EXPECT_EQ(crossed.differences.front().kind, Difference::Kind::goal);
  ASSERT_TRUE(crossed.first_line);
  EXPECT_EQ(crossed.first_line->joints.size(), 2u);
  // Without the pattern no move of the second is one of the first.
  const auto moves = compared(first, second, "(name ann ben) (name ben cas) (name bean maize)");
  ASSERT_EQ(moves.verdict, Verdict::different);
  EXPECT_EQ(moves.differences.front().kind, Difference::Kind::move);
  EXPECT_TRUE(moves.first_line->joints.empty());
}

TEST(Compare, AMoveThatTheRenamingLeavesOutIsADifference) {
  const Game first = Game::from_text(std::string(pots)).value();
  const Game second = Game::from_text(std::string(beds) +
                                      "(<= (legal ?who (sow ?what on ?bed)) (moves ?who)"
                                      " (true (sown ?bed nothing)) (kind ?what))")
                          .value();
  const auto found = compared(first, second, pots_to_beds);
  ASSERT_EQ(found.verdict, Verdict::different);
  EXPECT_EQ(found.differences.front().kind, Difference::Kind::move);
  EXPECT_FALSE(found.differences.front().in_first);
  EXPECT_THAT(found.differences.front().term, HasSubstr(" on "));
}

TEST(Compare, BadRenamingsAreToldAtTheirPlaces) {
  const auto refused = [](const std::string& text, int line, const std::string& message) {
    const auto read = Renaming::from_text(text, "names");
    ASSERT_FALSE(read.ok()) << text;
    const Diagnostic& fault = read.diagnostics().items().front();
    EXPECT_EQ(fault.code, "bad-renaming") << text;
    EXPECT_EQ(fault.place.line, line) << text;
    EXPECT_THAT(fault.message, HasSubstr(message));
  };
  refused("(name ann)", 1, "says nothing");
  refused("(name a b)\n(name a c)", 2, "has a name already");
  refused("(name a b)\n(name c b)", 2, "has a name already");
  refused("(move (go ?a) (go ?b))", 1, "one side only");
  refused("(move ?a ?a)", 1, "stands for no move");
  CompareOptions options;
  options.renaming = Renaming::from_text("(name nobody ben)").value();
  const auto unknown = compare_games(Game::from_text(std::string(pots)).value(),
                                     Game::from_text(std::string(beds)).value(), options);
  ASSERT_FALSE(unknown.ok());
  EXPECT_THAT(unknown.diagnostics().render(), HasSubstr("the first game has no name nobody"));
}

// ---- Names that are found ----

TEST(FindRenaming, FindsWhatThingsAreCalled) {
  const Game first = Game::from_text(std::string(pots)).value();
  const Game second = Game::from_text(std::string(beds)).value();
  const auto found = find_renaming(first, second);
  ASSERT_TRUE(found);
  CompareOptions options;
  options.renaming = *found;
  const auto compared = compare_games(first, second, options);
  ASSERT_TRUE(compared.ok()) << compared.diagnostics().render() << found->text();
  EXPECT_EQ(compared->verdict, Verdict::same) << found->text();
  EXPECT_EQ(found->name_of_second("ann"), "ben");
  // It reads back.
  EXPECT_EQ(Renaming::from_text(found->text()).value().text(), found->text());
  // Who wins by other seeds is another game: there are no such names.
  std::string other(beds);
  other.replace(other.find("(true (sown 1 pea))"), 19, "(true (sown 2 pea)) (true (sown 1 pea))");
  EXPECT_FALSE(find_renaming(first, Game::from_text(other).value()));
}

// Other names, numbers as names, arguments turned: whatever the rewriting, names are found under
// which both are the same game.
TEST(FindRenaming, FindsNamesAfterEveryRewriting) {
  std::size_t found_names = 0;
  for (const char* name : {"acorns", "hoes", "kites", "turnips"}) {
    const std::string text =
        testing::read_file(testing::source_path(std::string("tests/corpus/") + name + ".gdl"));
    const Game first = Game::from_text(text).value();
    for (const testing::Rewriting& style : testing::rewritings()) {
      // Most keep all names; a search is only of interest where they change, and once where not.
      const auto renaming = style.renaming(text);
      if (renaming && renaming->empty() && style.name != "in reverse") continue;
      const std::string rewritten = style.rewrite(text);
      if (rewritten.empty()) continue;
      SCOPED_TRACE(std::string(name) + ", " + style.name);
      const Game second = Game::from_text(rewritten).value();
      CompareOptions options;
      options.budget.positions = 100'000;
      options.find_names = true;
      const auto compared = compare_games(first, second, options);
      ASSERT_TRUE(compared.ok()) << compared.diagnostics().render();
      EXPECT_EQ(compared->verdict, Verdict::same) << compared->renaming.text();
      found_names += compared->renaming.empty() ? 0 : 1;
    }
  }
  EXPECT_GT(found_names, 6u);
}

// ---- What roles are told ----

TEST(Compare, WhatIsToldBelongsToTheGame) {
  const std::string rules = testing::read_file(testing::game_path("cellar"));
  const Game first = Game::from_text(rules).value();
  std::string silent = rules;
  const std::size_t at = silent.find("(<= (sees mouse first_is_right)");
  ASSERT_NE(at, std::string::npos);
  silent.replace(at, 31, "(<= (sees mouse (pairs 0))");
  const auto found = compared(first, Game::from_text(silent).value());
  ASSERT_EQ(found.verdict, Verdict::different);
  EXPECT_EQ(found.differences.front().kind, Difference::Kind::percept);
  EXPECT_EQ(found.differences.front().role, "mouse");
  ASSERT_TRUE(found.first_line);
  EXPECT_GT(found.first_line->joints.size(), 0u);
  const Game open = Game::from_text(R"((role random) (role mouse) (init a) (legal mouse wait)
      (legal random wait) (<= terminal (not (true a))) (goal mouse 0))")
                        .value();
  const Game told = Game::from_text(R"((role random) (role mouse) (init a) (legal mouse wait)
      (legal random wait) (<= terminal (not (true a))) (goal mouse 0)
      (<= (sees mouse a) (true a)))")
                        .value();
  const auto secrets = compared(told, open);
  ASSERT_EQ(secrets.verdict, Verdict::different);
  EXPECT_EQ(secrets.differences.front().kind, Difference::Kind::secrets);
  EXPECT_TRUE(secrets.differences.front().in_first);
}

// ---- How far it reaches ----

// The moves made so far are kept as a list without end, so there is no circuit.
std::string listed(int last) {
  return fmt::format(R"((role ann) (init (done nothing))
      (<= (legal ann (add ?letter)) (letter ?letter)) (letter a) (letter b)
      (<= (next (done (so ?letter ?before))) (does ann (add ?letter)) (true (done ?before)))
      (<= terminal (true (done (so {} (so b (so b ?_rest))))))
      (goal ann 50))",
                     last == 0 ? "a" : "b");
}

TEST(Compare, WithoutACircuitRandomGamesAreHeldAgainstEachOther) {
  const Game first = Game::from_text(listed(0)).value();
  CompareOptions options;
  options.budget.positions = 2000;
  const auto different = compare_games(first, Game::from_text(listed(1)).value(), options);
  ASSERT_TRUE(different.ok());
  EXPECT_EQ(different->verdict, Verdict::different);
  EXPECT_FALSE(different->shortest);
  const auto same =
      compare_games(first, Game::from_text(listed(0) + "(unused word)").value(), options);
  ASSERT_TRUE(same.ok());
  EXPECT_EQ(same->verdict, Verdict::undecided);
  EXPECT_EQ(same->ending, Ending::positions);
  EXPECT_FALSE(same->no_circuit.empty());
  EXPECT_EQ(same->positions, 2000u);
}

TEST(Compare, ABudgetThatEndsDecidesNothing) {
  const Game first = load("graft");
  // One more rule that changes nothing, so that the rules are not the same.
  const Game second =
      Game::from_text(testing::read_file(testing::game_path("graft")) + "\n(idle word)\n").value();
  std::stop_source stopped;
  stopped.request_stop();
  CompareOptions options;
  options.budget.stop = stopped.get_token();
  const auto found = compare_games(first, second, options);
  ASSERT_TRUE(found.ok());
  EXPECT_EQ(found->verdict, Verdict::undecided);
  EXPECT_EQ(found->ending, Ending::stopped);
}

}  // namespace
}  // namespace orchard::compare_test
