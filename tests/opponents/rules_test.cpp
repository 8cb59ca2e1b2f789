// Opponents in the language of the rules: what they prefer, and what positions are worth to them.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <set>

#include "game/core.hpp"
#include "opponents/preferences.hpp"
#include "orchard/line.hpp"
#include "orchard/match.hpp"
#include "orchard/opponent_rules.hpp"
#include "orchard/playouts.hpp"
#include "support/files.hpp"

namespace orchard::rules_test {
namespace {

using ::testing::HasSubstr;

Game espalier() {
  return Game::load(testing::game_path("espalier_3x3")).value();
}

std::string chosen(const Game& game, const std::string& line, const std::string& who,
                   const OpponentRules& rules, std::uint64_t seed = 3) {
  const Position at =
      line.empty() ? game.initial() : play_line(game, game.initial(), line).value().last();
  Match match(game, at);
  const Role role = game.to_move(at).front();
  const std::vector<Move> legal = game.legal(at, role);
  return make_opponent(who, seed, rules).value()->choose(match.situation(role, legal)).to_string();
}

TEST(OpponentRules, TheHighestValueIsPlayed) {
  const Game game = espalier();
  const auto rules = OpponentRules::from_text(game, R"(
    (<= (prefer ?who (tie 1 2) 10) (role ?who))
    (<= (prefer ?who (tie 1 2) 1) (role ?who))
    (<= (prefer ?who (tie 2 ?column) 5) (role ?who) (column ?column))
    (<= (prefer east (tie 2 1) 20) (true (square 1 1 west)))
    (<= (prefer ?who (tie 1 3) -1) (role ?who))
  )")
                         .value();
  EXPECT_TRUE(rules.prefers());
  EXPECT_FALSE(rules.judges());
  EXPECT_EQ(chosen(game, "", "rules", rules), "(tie 1 2)");  // the highest of several values
  EXPECT_EQ(chosen(game, "(tie 1 2) (tie 1 1)", "rules", rules), "(tie 2 1)");
  const auto all_chosen = [&](const std::string& line) {
    std::set<std::string> moves;
    for (std::uint64_t seed = 0; seed < 40; ++seed) {
      moves.insert(chosen(game, line, "rules", rules, seed));
    }
    return moves;
  };
  EXPECT_EQ(all_chosen("(tie 1 1) (tie 1 2)"), (std::set<std::string>{"(tie 2 1)", "(tie 2 2)"}));
  // What no rule values counts 0, which is more than -1.
  const auto dislikes =
      OpponentRules::from_text(game, "(<= (prefer ?who (tie 1 3) -1) (role ?who))").value();
  std::set<std::string> others;
  for (std::uint64_t seed = 0; seed < 40; ++seed) {
    others.insert(chosen(game, "", "rules", dislikes, seed));
  }
  EXPECT_EQ(others, (std::set<std::string>{"(tie 1 1)", "(tie 1 2)"}));
}

// Whatever the rules prefer in whatever position, the reference evaluator says so too.
TEST(OpponentRules, TheCircuitSaysWhatTheReferenceEvaluatorSays) {
  const std::map<std::string, std::string> preferences = {
      {"espalier_3x3",
       "(<= (prefer ?who (tie ?r ?c) ?c) (legal ?who (tie ?r ?c)) (true (square ?r ?x bare)))"
       "(<= (prefer ?who (tie ?r ?c) 9) (legal ?who (tie ?r ?c)) (true (square ?r ?x ?who)))"},
      {"snails",
       "(<= (prefer ?who (climb ?bricks) ?bricks) (legal ?who (climb ?bricks)))"
       "(<= (prefer ?who ?move 7) (legal ?who ?move) (not (true (turn amber))))"}};
  for (const auto& [name, text] : preferences) {
    SCOPED_TRACE(name);
    const Game game = Game::load(testing::game_path(name)).value();
    const syntax::Source source("preferences", text);
    const auto made = opponents::Preferences::make(game, source).value();
    const GameCore& core = *GameAccess::core(made->extended());
    const auto relation = core.program().description().find("prefer", 3).value();
    opponents::PreferenceReader reader(made);
    std::size_t compared = 0;
    WalkOptions options;
    options.plies = 8;
    for (options.seed = 1; options.seed <= 20; ++options.seed) {
      const auto walked = random_walk(game, options, [&](const WalkStep& step) {
        const Position here = made->extended().position(step.position.fluents()).value();
        GameCore::Lease evaluator(core, true);
        evaluator->set_position(GameAccess::state(here).fluents());
        const logic::Table& table = evaluator->reference().instances(relation);
        const auto bits = made->lanes().bits(GameAccess::state(here).fluents()).value();
        for (const Role& role : made->extended().roles()) {
          std::vector<std::uint32_t> legal;
          std::vector<double> wanted;
          for (const Move& move : made->extended().legal(here, role)) {
            legal.push_back(made->lanes().move_number(role.index(), GameAccess::id(move)).value());
            std::optional<double> best;
            for (std::uint32_t r = 0; r < table.rows(); ++r) {
              const auto row = std::span(table.row(r), table.arity());
              if (core.terms().text(row[0]) != role.name() || row[1] != GameAccess::id(move))
                continue;
              const auto value = static_cast<double>(*core.terms().term(row[2]).number());
              best = std::max(value, best.value_or(value));
            }
            wanted.push_back(best.value_or(0));
            compared += best ? 1 : 0;
          }
          EXPECT_EQ(reader.values(made->lanes().row(bits), role.index(), legal), wanted);
        }
        return true;
      });
      ASSERT_TRUE(walked.ok());
    }
    EXPECT_GT(compared, 50u);
  }
}

TEST(OpponentRules, LeavesAreWorthWhatTheySay) {
  const Game game = espalier();
  const auto rules = OpponentRules::from_text(game, R"(
    (<= (worth ?who 90) (role ?who) (true (square 1 3 ?who)))
    (<= (worth ?who 10) (role ?who) (true (square 1 3 ?other)) (role ?other) (distinct ?who ?other))
    (<= (worth ?who 20) (role ?who) (true (square 1 3 ?other)) (role ?other) (distinct ?who ?other))
  )")
                         .value();
  EXPECT_TRUE(rules.judges());
  for (const char* who : {"rules", "lookahead:1", "lookahead:2", "playouts:300", "playouts:3000"}) {
    SCOPED_TRACE(who);
    EXPECT_EQ(chosen(game, "", who, rules), "(tie 1 3)");
    // A win is a win, whatever the rules like.
    EXPECT_EQ(
        chosen(game, "(tie 1 1) (tie 1 3) (tie 1 2) (tie 2 3) (tie 2 1) (tie 3 3)", who, rules),
        "(tie 2 2)");
  }
}

TEST(OpponentRules, WhatIsWrongIsToldWithItsPlace) {
  const Game game = espalier();
  const auto expect = [&](const std::string& text, const std::string& message) {
    const auto rules = OpponentRules::from_text(game, text);
    ASSERT_FALSE(rules.ok()) << text;
    EXPECT_THAT(rules.diagnostics().render(), HasSubstr(message));
  };
  expect("", "neither prefer a move nor judge a position");
  expect("(<= (likes ?who) (role ?who))", "neither prefer a move nor judge a position");
  expect("(prefer east (tie 1 1))", "neither prefer a move nor judge a position");
  expect("(prefer south (tie 1 1) 5)", "south is not a role");
  expect("(prefer east (tie 1 1) much)", "much is not a whole number");
  expect("(<= (prefer ?who ?move 5) (does ?who ?move))", "depends on the moves that are made");
  expect("(worth east 101)", "a position cannot be worth 101");
  expect("(worth east", "never closed");
  EXPECT_FALSE(OpponentRules::load(game, "/nonexistent").ok());
  const auto slip = OpponentRules::from_text(
      game, "(<= (prefer ?who (tie 1 1) 5) (role ?who) (corner_of_it ?who))");
  ASSERT_TRUE(slip.ok());
  EXPECT_THAT(slip->findings().render(), HasSubstr("corner_of_it"));
  const auto prefers = OpponentRules::from_text(game, "(prefer east (tie 1 1) 5)").value();
  EXPECT_TRUE(prefers.findings().empty()) << prefers.findings().render();
  const auto both = OpponentRules::from_text(
      game,
      "(<= (prefer ?who (tie 1 1) 5) (role ?who)) (<= (worth ?who 50) (role ?who)) (spare 1)");
  EXPECT_THAT(both.value().findings().render(), HasSubstr("`spare`"));
  EXPECT_EQ(both.value().findings().items().size(), 1u) << both.value().findings().render();
  EXPECT_THAT(make_opponent("lookahead:2", 1, prefers).diagnostics().render(),
              HasSubstr("add rules for (worth ROLE VALUE)"));
  EXPECT_FALSE(make_opponent("careful", 1, prefers).ok());
  // Of another game they say nothing.
  const Game other = Game::load(testing::game_path("snails")).value();
  EXPECT_THROW(chosen(other, "", "rules", prefers), std::logic_error);
}

// Whole matches: of its legal moves the role always makes one that its rules value most, where
// hands are hidden, where all choose at once, and on rules of other hands.
TEST(OpponentRules, ArePlayedInEveryKindOfGame) {
  struct Case {
    std::string path;
    std::string role;
    std::string rules;
    std::map<std::string, std::int64_t> values;  // by move; others 0
  };
  const Case cases[] = {
      {"games/hedgerow.gdl",
       "ash",
       "(prefer ash (plant 2 3) 9) (prefer ash (plant 0 3) 8) (prefer ash (plant 1 2) -4)",
       {{"(plant 2 3)", 9}, {"(plant 0 3)", 8}, {"(plant 1 2)", -4}}},
      {"games/market_day.gdl",
       "hill",
       "(prefer hill (ask low) 3) (prefer hill (ask fair) 7)",
       {{"(ask low)", 3}, {"(ask fair)", 7}}},
      {"tests/corpus/letters.gdl",
       "carrier",
       "(prefer carrier stay 2) (prefer carrier (go mill) 5)",
       {{"stay", 2}, {"(go mill)", 5}}}};
  for (const Case& one : cases) {
    SCOPED_TRACE(one.path);
    const Game game = Game::load(testing::source_path(one.path)).value();
    const Role role = game.role(one.role).value();
    const auto rules = OpponentRules::from_text(game, one.rules).value();
    const auto value = [&](const Move& move) {
      const auto known = one.values.find(move.to_string());
      return known == one.values.end() ? 0 : known->second;
    };
    std::size_t chosen = 0;
    std::size_t telling = 0;  // choices between moves of different values
    for (std::uint64_t seed = 1; seed <= 40; ++seed) {
      const auto player = make_opponent("rules", seed, rules).value();
      Match match(game);
      while (!match.over()) {
        JointMove joint;
        for (const Role& each : game.roles()) {
          const std::vector<Move> legal = game.legal(match.position(), each);
          const Situation situation = match.situation(each, legal);
          if (each != role) {
            joint.add(random_opponent(seed + match.ply())->choose(situation));
            continue;
          }
          const Move move = player->choose(situation);
          const auto [least, most] = std::ranges::minmax(legal, {}, value);
          EXPECT_EQ(value(move), value(most)) << match.position().to_string();
          ++chosen;
          telling += value(least) != value(most) ? 1 : 0;
          joint.add(move);
        }
        ASSERT_TRUE(match.play(joint).empty());
      }
    }
    EXPECT_GT(chosen, 20u);
    EXPECT_GT(telling, 5u);
  }
}

}  // namespace
}  // namespace orchard::rules_test
