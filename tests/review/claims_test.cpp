// Claims: their language, what is wrong with them, and their verdicts judged by hand.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <algorithm>

#include "orchard/claim_defence.hpp"
#include "orchard/playouts.hpp"
#include "orchard/random.hpp"
#include "orchard/review.hpp"
#include "support/explored_by_hand.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::claims_test {
namespace {

using ::testing::HasSubstr;

Game espalier() {
  return Game::load(testing::game_path("espalier_3x3")).value();
}

Result<Review> reviewed(const Game& game, const std::string& claims) {
  const testing::TemporaryFolder folder;
  ReviewOptions options;
  options.claims = folder.write("some.claims", claims);
  options.allow = question_ids();
  return review_rules(game, options);
}

Answer asked(const Game& game, const std::string& claim, const std::string& helpers = {}) {
  return reviewed(game, "(claim \"it\" " + claim + ")\n" + helpers).value().claims.at(0);
}

std::string fault(const Game& game, const std::string& claims) {
  const auto review = reviewed(game, claims);
  return review ? "none" : review.diagnostics().render();
}

// A formula as text, and the same as a function of a position.
struct Formula {
  std::string text;
  std::function<bool(const Position&)> holds;
};

Formula random_formula(const Game& game, Random& random, int depth) {
  if (depth == 0 || random.below(4) == 0) {
    if (random.below(6) == 0) {
      return {"terminal", [&game](const Position& p) { return game.terminal(p); }};
    }
    static const char* const contents[] = {"bare", "east", "west"};
    const std::string fluent = "(square " + std::to_string(random.below(3) + 1) + " " +
                               std::to_string(random.below(3) + 1) + " " +
                               contents[random.below(3)] + ")";
    const Term term = Term::parse(fluent).value();
    return {"(true " + fluent + ")", [term](const Position& p) { return p.holds(term); }};
  }
  const Formula a = random_formula(game, random, depth - 1);
  const Formula b = random_formula(game, random, depth - 1);
  switch (random.below(4)) {
    case 0:
      return {"(not " + a.text + ")", [a](const Position& p) { return !a.holds(p); }};
    case 1:
      return {"(and " + a.text + " " + b.text + ")",
              [a, b](const Position& p) { return a.holds(p) && b.holds(p); }};
    case 2:
      return {"(or " + a.text + " " + b.text + ")",
              [a, b](const Position& p) { return a.holds(p) || b.holds(p); }};
    default:
      return {"(implies " + a.text + " " + b.text + ")",
              [a, b](const Position& p) { return !a.holds(p) || b.holds(p); }};
  }
}

TEST(Claims, RandomFormulasHoldWhereTheyDoByHand) {
  const Game game = espalier();
  const auto positions = testing::explore_by_hand(game, 5000);
  Random random(7);
  std::map<Verdict, std::size_t> verdicts;
  for (int i = 0; i < 40; ++i) {
    const Formula formula = random_formula(game, random, 4);
    std::size_t count = 0;
    std::size_t depth_of_one = 99;
    std::size_t depth_without = 99;
    for (const auto& one : positions) {
      const bool holds = formula.holds(one.position);
      count += holds ? 1 : 0;
      std::size_t& least = holds ? depth_of_one : depth_without;
      least = std::min(least, one.depth);
    }
    const Review review =
        reviewed(game, "(claim \"a\" (always " + formula.text + "))(claim \"n\" (never " +
                           formula.text + "))(claim \"p\" (possible " + formula.text + "))")
            .value();
    ASSERT_EQ(review.claims.size(), 3u);
    const auto verdict = [](bool holds) { return holds ? Verdict::holds : Verdict::fails; };
    EXPECT_EQ(review.claims[0].verdict, verdict(count == positions.size())) << formula.text;
    EXPECT_EQ(review.claims[1].verdict, verdict(count == 0)) << formula.text;
    EXPECT_EQ(review.claims[2].verdict, verdict(count > 0)) << formula.text;
    if (count < positions.size()) {
      EXPECT_EQ(review.claims[0].line->joints.size(), depth_without) << formula.text;
    }
    if (count > 0) {
      EXPECT_EQ(review.claims[2].line->joints.size(), depth_of_one) << formula.text;
      EXPECT_TRUE(formula.holds(review.claims[2].line->last()));
    }
    for (const Answer& answer : review.claims) ++verdicts[answer.verdict];
    const Sought sought = find_position(game, formula.text).value();
    EXPECT_EQ(sought.line.has_value(), count > 0);
  }
  EXPECT_GE(verdicts[Verdict::holds], 20u);
  EXPECT_GE(verdicts[Verdict::fails], 20u);
}

TEST(Claims, QuantifiersRangeOverARelation) {
  const Game game = espalier();
  EXPECT_EQ(asked(game, "(possible (exists ?r row (forall ?c column (true (square ?r ?c east)))))")
                .verdict,
            Verdict::holds);
  EXPECT_EQ(asked(game, "(never (forall ?r row (forall ?c column (true (square ?r ?c bare)))))")
                .line->joints.size(),
            0u);
  EXPECT_EQ(asked(game, "(always (exists ?who role (true (turn ?who))))").verdict, Verdict::holds);
  // Over an atom with other arguments, and a formula that asks for none of the variable.
  EXPECT_EQ(asked(game, "(always (exists ?r (above ?r 2) (or terminal (not terminal))))").verdict,
            Verdict::holds);
}

TEST(Claims, FreeVariablesAreTriedOutside) {
  const Game game = espalier();
  const Answer each = asked(game, "(possible (and (rival ?who ?other) (wins ?who)))");
  EXPECT_EQ(each.verdict, Verdict::holds);
  EXPECT_THAT(each.evidence.text(), HasSubstr("holds somewhere for all 2 choices"));
  const Answer too_much = asked(game, "(always (not (true (square ?r ?c west))))");
  EXPECT_EQ(too_much.verdict, Verdict::fails);
  EXPECT_THAT(too_much.evidence.text(), HasSubstr("for ?r = 1, ?c = 2"));
  EXPECT_EQ(too_much.line->joints.size(), 2u);
  EXPECT_THAT(asked(game, "(possible (wins ?who))").evidence.text(),
              HasSubstr("holds somewhere for all 2 choices"));
}

TEST(Claims, MovesAreThoseThatLeaveAPosition) {
  const Game game = espalier();
  EXPECT_EQ(asked(game, "(always (implies (does ?who ?move) (legal ?who ?move)))").verdict,
            Verdict::holds);
  const Answer tied = asked(game, "(never (does west (tie 3 3)))");
  EXPECT_EQ(tied.verdict, Verdict::fails);
  EXPECT_EQ(tied.line->joints.back()[1].to_string(), "(tie 3 3)");
  EXPECT_EQ(asked(game, "(eventually (does east (tie 1 1)))").verdict, Verdict::fails);
  EXPECT_EQ(asked(game, "(can-force east (does east (tie 1 1)))").verdict, Verdict::holds);
}

TEST(Claims, LinesComeSomewhereOrShowThatTheyNeedNot) {
  const Game game = espalier();
  EXPECT_EQ(asked(game, "(eventually terminal)").verdict, Verdict::holds);
  const Answer not_all = asked(game, "(eventually (wins east))");
  EXPECT_EQ(not_all.verdict, Verdict::fails);
  EXPECT_TRUE(game.terminal(not_all.line->last()));
  EXPECT_NE(game.goal(not_all.line->last(), *game.role("east")), 100);
  EXPECT_EQ(asked(game, "(until room_left terminal)").verdict, Verdict::holds);
  const Answer broken = asked(game, "(until (true (square 2 2 bare)) terminal)");
  EXPECT_EQ(broken.verdict, Verdict::fails);
  EXPECT_FALSE(broken.line->last().holds(Term::parse("(square 2 2 bare)").value()));
}

TEST(Claims, WhatGoesRoundIsShownAsACycle) {
  const Game game = Game::from_text(R"(
    (role bee) (init (at hive))
    (legal bee stay) (legal bee go)
    (<= (next (at hive)) (true (at hive)) (does bee stay))
    (<= (next (at field)) (true (at hive)) (does bee go))
    (<= (next (at field)) (true (at field)))
    (<= terminal (true (at field)))
    (goal bee 100)
  )")
                        .value();
  const Answer never_leaves = asked(game, "(eventually (true (at field)))");
  EXPECT_EQ(never_leaves.verdict, Verdict::fails);
  ASSERT_TRUE(never_leaves.repeats_from.has_value());
  EXPECT_EQ(never_leaves.line->positions[*never_leaves.repeats_from], never_leaves.line->last());
  EXPECT_EQ(asked(game, "(can-force bee (true (at field)))").verdict, Verdict::holds);
}

TEST(Claims, WhoCanForceWhatAgreesWithBestPlay) {
  const Game game = espalier();
  EXPECT_EQ(asked(game, "(can-force east (and terminal (not (goal east 0))))").verdict,
            Verdict::holds);
  const Answer cannot = asked(game, "(can-force east (wins east))");
  EXPECT_EQ(cannot.verdict, Verdict::fails);
  EXPECT_TRUE(game.terminal(cannot.line->last()));
  EXPECT_EQ(asked(game, "(can-force east west (wins west))").verdict, Verdict::holds);
  const Game snails = Game::load(testing::game_path("snails")).value();
  EXPECT_EQ(asked(snails, "(can-force amber (wins amber))").verdict, Verdict::holds);
  EXPECT_EQ(asked(snails, "(can-force grey (wins grey))").verdict, Verdict::fails);
}

// Positions found by hand in which a fluent holds, and what is so by the words of the chapter.
class Judge {
 public:
  Judge(const Game& game, const Term& fluent)
      : positions_(testing::explore_by_hand(game, 800)), fluent_(fluent) {}
  bool usable() const { return !positions_.empty(); }

  // Every line comes to the fluent.
  bool eventually() const {
    return least([&](const testing::ByHand& one, const std::vector<bool>& in) {
      return !one.next.empty() &&
             std::ranges::all_of(one.next, [&](const auto& entry) { return in[entry.second]; });
    });
  }
  // A role has a move such that whatever the others do it comes nearer.
  bool can_force(std::size_t role) const {
    return least([&](const testing::ByHand& one, const std::vector<bool>& in) {
      std::map<std::size_t, bool> good;  // by its move
      for (const auto& [choice, next] : one.next) {
        bool& all = good.try_emplace(choice[role], true).first->second;
        all = all && in[next];
      }
      return std::ranges::any_of(good, [](const auto& entry) { return entry.second; });
    });
  }

 private:
  template <class Joins>
  bool least(Joins&& joins) const {
    std::vector<bool> in;
    for (const auto& one : positions_) in.push_back(one.position.holds(fluent_));
    for (bool changed = true; changed;) {
      changed = false;
      for (std::size_t p = 0; p < positions_.size(); ++p) {
        if (!in[p] && joins(positions_[p], in)) in[p] = changed = true;
      }
    }
    return in[0];
  }

  std::vector<testing::ByHand> positions_;
  Term fluent_;
};

// The answer to a claim that fails keeps it from coming about whatever the claimants do: at random,
// and as well as they can.
TEST(Claims, WhatFailsIsAnsweredInPlay) {
  const testing::TemporaryFolder folder;
  struct Case {
    const char* game;
    const char* claim;
    const char* role;
    const char* fluent;  // or a win
  };
  const Case cases[] = {
      {"espalier_3x3", "(can-force east (wins east))", "east", nullptr},
      {"espalier_3x3", "(can-force east (true (square 2 2 west)))", "east", "(square 2 2 west)"},
      {"snails", "(can-force grey (wins grey))", "grey", nullptr}};
  for (const Case& one : cases) {
    SCOPED_TRACE(one.claim);
    const Game game = Game::load(testing::game_path(one.game)).value();
    ReviewOptions options;
    options.claims = folder.write("some.claims", "(claim \"it\" " + std::string(one.claim) + ")");
    const auto defence = defend_against_claim(game, "it", options);
    ASSERT_TRUE(defence) << defence.diagnostics().render();
    ASSERT_EQ(defence->claimants.size(), 1u);
    EXPECT_EQ(defence->claimants[0].name(), one.role);
    const auto reached = [&](const Position& position) {
      if (one.fluent != nullptr) return position.holds(Term::parse(one.fluent).value());
      return game.terminal(position) &&
             game.goals(position, defence->claimants[0]).front().to_string() == "100";
    };
    for (std::uint64_t match = 0; match < 60; ++match) {
      const auto opponent = defence->opponent(match);
      const auto claimant = make_opponent(match % 6 == 0 ? "perfect" : "random", match).value();
      Position position = game.initial();
      while (!game.terminal(position)) {
        std::vector<Move> joint;
        for (const Role& role : game.roles()) {
          const std::vector<Move> legal = game.legal(position, role);
          const Situation situation{game, role, position, legal, 0, {}, {}, nullptr};
          const bool claims = role.name() == one.role;
          joint.push_back((claims ? claimant : opponent)->choose(situation));
        }
        EXPECT_FALSE(reached(position));
        position = game.next(position, JointMove(joint)).value();
      }
      EXPECT_FALSE(reached(position));
    }
  }
}

// Where several choose at once there may be no one answer: it is one to most of what can be chosen.
TEST(Claims, WhoChoosesAtOnceAnswersMostChoices) {
  LoadOptions sizes;
  sizes.sizes = {{"days", 1}};
  const Game game = Game::load(testing::game_path("market_day"), sizes).value();
  const testing::TemporaryFolder folder;
  ReviewOptions options;
  options.claims = folder.write("some.claims", "(claim \"more\" (can-force hill (goal hill 100)))");
  const ClaimDefence defence = defend_against_claim(game, "more", options).value();
  const Role& vale = game.roles()[1];
  const std::vector<Move> legal = game.legal(game.initial(), vale);
  std::size_t most = 0;
  std::vector<std::size_t> answered;
  for (const Move& own : legal) {
    std::size_t count = 0;
    for (const Move& move : game.legal(game.initial(), game.roles()[0])) {
      const Position last = game.next(game.initial(), JointMove({move, own})).value();
      count += game.goals(last, game.roles()[0]).front().to_string() == "100" ? 0 : 1;
    }
    answered.push_back(count);
    most = std::max(most, count);
  }
  for (std::uint64_t seed = 0; seed < 20; ++seed) {
    const Situation situation{game, vale, game.initial(), legal, 0, {}, {}, nullptr};
    const Move chosen = defence.opponent(seed)->choose(situation);
    const auto at = static_cast<std::size_t>(std::ranges::find(legal, chosen) - legal.begin());
    ASSERT_LT(at, legal.size());
    EXPECT_EQ(answered[at], most);
  }
}

TEST(Claims, OnlyWhatFailsIsAnswered) {
  const testing::TemporaryFolder folder;
  ReviewOptions options;
  options.claims = folder.write("some.claims",
                                "(claim \"no loss\" (can-force east (not (wins west))))\n"
                                "(claim \"it ends\" (eventually terminal))\n"
                                "(claim \"a win\" (can-force east (wins east)))");
  const auto fault = [&](const std::string& name) {
    const auto defence = defend_against_claim(espalier(), name, options);
    return defence ? "none" : defence.diagnostics().render();
  };
  EXPECT_THAT(fault("no loss"), HasSubstr("[claim-holds]"));
  EXPECT_THAT(fault("it ends"), HasSubstr("[no-such-claim]"));
  EXPECT_THAT(fault("a wim"), HasSubstr("did you mean \"a win\"?"));
  options.budget.positions = 20;
  EXPECT_THAT(fault("a win"), HasSubstr("[not-decided]"));
}

TEST(Claims, LinesAndForcingOnRandomGamesAreAsByHand) {
  std::map<std::pair<bool, bool>, std::size_t> met;  // forcing or not, holds or not
  for (std::uint64_t seed = 1; seed <= 60; ++seed) {
    const auto game = Game::from_text(testing::random_rules(seed));
    if (!game) continue;
    // A fluent that is not there at the start but comes to be: of a position some plies on.
    WalkOptions walk;
    std::optional<Term> fluent;
    walk.plies = 6;
    (void)random_walk(*game, walk, [&](const WalkStep& step) {
      for (const Term& next : step.position.fluents()) {
        if (!game->initial().holds(next)) fluent = next;
      }
      return true;
    });
    if (!fluent) continue;
    const Judge judge(*game, *fluent);
    if (!judge.usable()) continue;
    const std::string goal = "(true " + fluent->to_string() + ")";
    const auto review =
        reviewed(*game, "(claim \"e\" (eventually " + goal + ")) (claim \"r0\" (can-force r0 " +
                            goal + ")) (claim \"r1\" (can-force r1 " + goal + "))");
    if (!game->role("r1") || !review) continue;
    const auto verdict = [](bool holds) { return holds ? Verdict::holds : Verdict::fails; };
    EXPECT_EQ(review->claims[0].verdict, verdict(judge.eventually())) << seed;
    EXPECT_EQ(review->claims[1].verdict, verdict(judge.can_force(0))) << seed;
    EXPECT_EQ(review->claims[2].verdict, verdict(judge.can_force(1))) << seed;
    ++met[{false, judge.eventually()}];
    ++met[{true, judge.can_force(0)}];
  }
  EXPECT_GE((met[{false, true}]), 1u);
  EXPECT_GE((met[{false, false}]), 5u);
  EXPECT_GE((met[{true, true}]), 5u);
  EXPECT_GE((met[{true, false}]), 3u);
}

TEST(Claims, HelperRulesMayStandBesideThem) {
  const Game game = espalier();
  const std::string helpers =
      "(<= (full ?r) (row ?r) (not (some_bare ?r)))\n"
      "(<= (some_bare ?r) (true (square ?r ?c bare)))\n";
  EXPECT_EQ(asked(game, "(never (and (full ?r) (true (square ?r ?c bare))))", helpers).verdict,
            Verdict::holds);
  EXPECT_EQ(asked(game, "(possible (full ?r))", helpers).verdict, Verdict::holds);
}

// A slip in a name would make it hold for nothing.
TEST(Claims, WhatNothingFitsIsPointedOut) {
  const Answer slip = asked(espalier(), "(never (wins eats))");
  EXPECT_EQ(slip.verdict, Verdict::suspicious);
  EXPECT_THAT(slip.evidence.text(), HasSubstr("nothing that the rules derive matches (wins eats)"));
  EXPECT_EQ(asked(espalier(), "(possible (wins eats))").verdict, Verdict::fails);
}

TEST(Claims, OneValueAtMost) {
  const Game game = espalier();
  EXPECT_EQ(asked(game, "(exclusive (square ?r ?c ?x))").verdict, Verdict::holds);
  EXPECT_EQ(asked(game, "(exclusive (turn ?x))").verdict, Verdict::holds);
  // Of the last variable: two columns of a row are bare at the start.
  EXPECT_EQ(asked(game, "(exclusive (square ?r ?c bare))").line->joints.size(), 0u);
  // Of any choice of keys: a square has one content; a content has not one square.
  EXPECT_EQ(asked(game, "(exclusive (square ?r ?c ?x) ?c ?r)").verdict, Verdict::holds);
  EXPECT_EQ(asked(game, "(exclusive (square ?r ?c ?x) ?x)").verdict, Verdict::fails);
  EXPECT_EQ(asked(game, "(exclusive (square ?r ?c east) ?r)").line->joints.size(), 3u);
}

TEST(Claims, MistakesAreToldWithTheirPlaceAndARemedy) {
  const Game game = espalier();
  const auto expect = [&](const std::string& claims, const std::string& message,
                          const std::string& remedy) {
    const std::string told = fault(game, claims);
    EXPECT_THAT(told, HasSubstr(message)) << claims;
    EXPECT_THAT(told, HasSubstr(remedy)) << claims;
    EXPECT_THAT(told, HasSubstr("some.claims:")) << claims;
  };
  expect("", "this file claims nothing", "(claim \"name\"");
  expect("(claim always)", "expected a claim", "(claim \"name\"");
  expect("(claim \"x\" (allways terminal))", "a claim says one of these", "always, never");
  expect("(claim \"x\" (always terminal terminal))", "always has another form", "(always FORMULA)");
  expect("(claim \"x\" (until terminal))", "until has another form", "(until FORMULA FORMULA)");
  expect("(claim \"x\" (always rom_left))", "no rule is about rom_left", "did you mean `room_left`?");
  expect("(claim \"x\" (always (wins east west)))", "wins takes 1 argument, not 2", "");
  expect("(claim \"x\" (always (legal north ?m)))", "north is not a role",
         "the roles are east, west");
  expect("(claim \"x\" (can-force north terminal))", "north is not a role that can force",
         "name roles");
  expect("(claim \"x\" (always (next (turn east))))", "a formula cannot ask for next",
         "ask for true");
  expect("(claim \"x\" (always (true (square 1 1 ?x) 2)))", "true takes 1 argument", "");
  expect("(claim \"x\" (always (true (moon ?x))))", "nothing can stand for ?x", "--domains");
  expect("(claim \"x\" (always ?f))", "a variable is no formula", "write a literal");
  expect("(claim \"x\" (always (exists row terminal)))", "a quantifier has another form",
         "(exists ?v RELATION FORMULA)");
  expect("(claim \"x\" (always (exists ?r (row 1) terminal)))", "does not stand in what it ranges",
         "(RELATION ?r)");
  expect("(claim \"x\" (always (not terminal terminal)))", "not takes one formula", "(not F)");
  expect("(claim \"x\" (exclusive (turn east)))", "a fluent with a variable", "(exclusive (square");
  expect("(claim \"x\" (exclusive (turn ?w) ?who))", "?who is no variable of the fluent", "");
  expect("(claim \"x\" (exclusive (turn ?w) ?w))", "every variable of the fluent is a key", "");
  expect("(claim \"x\" (always terminal))\n(<= (full ?r) (rwo ?r)", "parenthesis", "");
  expect("(claim \"x\" (always terminal))\n(<= (full ?r) (not (row ?r)))", "full", "");
  std::string deep;
  for (int i = 0; i < 300; ++i) deep += "(not ";
  expect("(claim \"x\" (always " + deep, "", "");
}

TEST(Find, WhatShowsEarlyIsFoundEarly) {
  const Game game = Game::load(testing::game_path("graft")).value();
  ReviewOptions options;
  options.threads = 2;
  const Sought soon = find_position(game, "(true (turn pear))", options).value();
  ASSERT_TRUE(soon.line);
  EXPECT_EQ(soon.line->joints.size(), 1u);
  EXPECT_TRUE(soon.shortest);
  EXPECT_LT(soon.positions, 50'000u);  // of the three million that may be looked at
  // What asks for a move, too.
  const Sought move = find_position(game, "(does pear (graft 1 1))", options).value();
  ASSERT_TRUE(move.line);
  EXPECT_EQ(move.line->joints.size(), 2u);
}

TEST(Find, AsksOneFormula) {
  const Game game = espalier();
  const Sought sought = find_position(game, "(and terminal (goal ?who 50))").value();
  ASSERT_TRUE(sought.line.has_value());
  EXPECT_EQ(sought.line->joints.size(), 9u);
  EXPECT_EQ(text_of(sought.choice), "?who = east");
  EXPECT_FALSE(find_position(game, "(and (wins east) (wins west))").value().line.has_value());
  EXPECT_FALSE(find_position(game, "terminal terminal").ok());
  EXPECT_FALSE(find_position(game, "").ok());
  // Whatever the budget, the line leads to where the formula holds.
  const Term corner = Term::parse("(square 3 3 west)").value();
  for (const std::uint64_t positions : {2u, 60u, 300u, 1200u, 5000u}) {
    ReviewOptions bounded;
    bounded.budget.positions = positions;
    const Sought met = find_position(game, "(true (square 3 3 west))", bounded).value();
    ASSERT_TRUE(met.line.has_value());
    EXPECT_TRUE(met.line->last().holds(corner)) << positions;
  }
  // Beyond the budget random games look on.
  ReviewOptions options;
  options.budget.positions = 1000;
  const Game silo = Game::load(testing::game_path("silo")).value();
  const Sought far = find_position(silo, "(and terminal (not room_left))", options).value();
  ASSERT_TRUE(far.line.has_value());
  EXPECT_FALSE(far.shortest);
  EXPECT_EQ(far.line->joints.size(), 25u);
}

}  // namespace
}  // namespace orchard::claims_test
