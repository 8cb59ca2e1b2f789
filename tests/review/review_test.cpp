// The questions of a review against the same answered by hand on every position.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fmt/core.h>

#include <pugixml.hpp>

#include <algorithm>
#include <functional>
#include <optional>

#include "orchard/report.hpp"
#include "support/answers.hpp"
#include "support/explored_by_hand.hpp"
#include "support/files.hpp"
#include "support/play.hpp"
#include "support/random_rules.hpp"

namespace orchard::review_test {
namespace {

using testing::answer;
using ::testing::HasSubstr;
using testing::load;
using ::testing::Not;

// Depth of the first position for which something is so.
std::optional<std::size_t> first_depth(const std::vector<testing::ByHand>& positions,
                                       const std::function<bool(const testing::ByHand&)>& is) {
  std::optional<std::size_t> result;
  for (const testing::ByHand& one : positions) {
    if (is(one) && (!result || one.depth < *result)) result = one.depth;
  }
  return result;
}

bool goes_round(const std::vector<testing::ByHand>& positions) {
  std::vector<bool> off(positions.size(), false);
  for (bool changed = true; changed;) {
    changed = false;
    for (std::size_t p = 0; p < positions.size(); ++p) {
      if (off[p]) continue;
      const bool all = std::ranges::all_of(positions[p].next,
                                           [&](const auto& entry) { return off[entry.second]; });
      if (all) off[p] = changed = true;
    }
  }
  return std::ranges::find(off, false) != off.end();
}

void expect_line(const Game& game, const Answer& answer, std::size_t depth) {
  ASSERT_TRUE(answer.line.has_value()) << answer.id;
  EXPECT_EQ(answer.line->joints.size(), depth) << answer.id;
  Position position = game.initial();
  for (const JointMove& joint : answer.line->joints) position = game.next(position, joint).value();
  EXPECT_EQ(position, answer.line->last());
}

// Random rules in which roles may come to be without a move, and games end now and then.
std::string random_game(std::uint64_t seed) {
  std::string rules = testing::random_rules(seed);
  const std::string stay = "(legal r0 stay)";
  if (const std::size_t at = rules.find(stay); seed % 2 == 0 && at != std::string::npos) {
    rules.replace(at, stay.size(), "(<= (legal r0 stay) (not (true (f c0))))");
  }
  if (seed % 3 == 0) rules += "(<= terminal (true (f c1)) (not (true lone)))\n(goal r0 30)\n";
  return rules;
}

TEST(Review, AnswersAsOneFindsByHandOnRandomGames) {
  std::map<std::string, std::size_t> failures;
  std::size_t reviewed = 0;
  for (std::uint64_t seed = 1; seed <= 100; ++seed) {
    const auto game = Game::from_text(random_game(seed));
    if (!game) continue;
    const auto positions = testing::explore_by_hand(*game, 1500);
    ReviewOptions options;
    options.allow = {"draws", "balance", "turns", "effect"};
    const auto review = review_rules(*game, options);
    ASSERT_TRUE(review.ok());
    if (positions.empty() || !review->not_asked.empty()) continue;
    ++reviewed;
    ASSERT_TRUE(review->complete());
    EXPECT_EQ(review->positions, positions.size());

    const auto check = [&](const std::string& id, std::optional<std::size_t> depth) {
      const Answer& given = answer(*review, id);
      EXPECT_EQ(given.verdict, depth ? Verdict::fails : Verdict::holds) << seed << " " << id;
      if (!depth) return;
      ++failures[id];
      expect_line(*game, given, *depth);
    };
    check("moves", first_depth(positions, [](const auto& one) { return one.stuck; }));
    if (std::ranges::none_of(positions, &testing::ByHand::terminal)) {
      EXPECT_EQ(answer(*review, "scored").verdict, Verdict::described) << seed;
    } else {
      check("scored", first_depth(positions, [&](const testing::ByHand& one) {
              return one.terminal && std::ranges::any_of(game->roles(), [&](const Role& role) {
                       const auto goal = game->goal(one.position, role);
                       return !role.is_chance() && (!goal || *goal < 0 || *goal > 100);
                     });
            }));
    }
    const Answer& ends = answer(*review, "ends");
    const bool round = goes_round(positions);
    EXPECT_EQ(ends.verdict, round ? Verdict::fails : Verdict::holds) << seed;
    if (round) {
      ++failures["ends"];
      ASSERT_TRUE(ends.line && ends.repeats_from);
      EXPECT_EQ(ends.line->positions[*ends.repeats_from], ends.line->last());
      EXPECT_LT(*ends.repeats_from, ends.line->joints.size());
    }
  }
  EXPECT_GE(reviewed, 60u);
  EXPECT_GE(failures["moves"], 5u);
  EXPECT_GE(failures["scored"], 5u);
  EXPECT_GE(failures["ends"], 5u);
}

TEST(Review, TellsTheLastDepthAndCountsOfEachDepth) {
  const Game game = load("espalier_3x3");
  const auto positions = testing::explore_by_hand(game, 5000);
  const Review review = review_rules(game).value();
  EXPECT_FALSE(review.failed());
  EXPECT_FALSE(review.undecided());
  for (std::size_t depth = 0; depth < review.depths.size(); ++depth) {
    const auto here = [&](const testing::ByHand& one) { return one.depth == depth; };
    const auto end = [&](const testing::ByHand& one) { return here(one) && one.terminal; };
    EXPECT_EQ(review.depths[depth].positions,
              static_cast<std::uint64_t>(std::ranges::count_if(positions, here)));
    EXPECT_EQ(review.depths[depth].ends,
              static_cast<std::uint64_t>(std::ranges::count_if(positions, end)));
  }
  EXPECT_THAT(answer(review, "ends").evidence.text(), HasSubstr("after 7 to 9 plies"));
  EXPECT_THAT(answer(review, "turns").evidence.text(),
              HasSubstr("east and west alternate; east begins"));
  EXPECT_THAT(answer(review, "draws").evidence.text(),
              HasSubstr("draws are possible, the first after 9 plies"));
  EXPECT_THAT(answer(review, "sum").evidence.text(), HasSubstr("100 at every end"));
}

TEST(Review, SaysUnknownWhereTheBudgetEnded) {
  ReviewOptions options;
  options.budget.positions = 20'000;
  const Review review = review_rules(load("graft"), options).value();
  EXPECT_EQ(review.ending, Ending::positions);
  EXPECT_TRUE(review.undecided());
  EXPECT_FALSE(review.failed());
  EXPECT_EQ(answer(review, "settled").verdict, Verdict::unknown);
  EXPECT_EQ(answer(review, "moves").verdict, Verdict::holds);
  // What was met, if only in a random game, is certain.
  EXPECT_EQ(answer(review, "winnable:plum").verdict, Verdict::holds);
  EXPECT_EQ(answer(review, "dead").verdict, Verdict::holds);
}

// Numbers in a position tell how many moles have settled, so there is room for each; and whatever
// chance does beside a move, the move is not idle.
TEST(Review, OfAGameOfChanceIsProvedBeyondWhatIsExplored) {
  ReviewOptions options;
  options.budget.positions = 500;
  for (const char* name : {"moles", "cellar"}) {
    SCOPED_TRACE(name);
    const Review review = review_rules(load(name), options).value();
    EXPECT_EQ(review.ending, Ending::positions);
    for (const char* id : {"ends", "moves", "scored", "single-valued", "declared", "effect"}) {
      EXPECT_EQ(answer(review, id).verdict, Verdict::holds) << id;
    }
  }
  for (const char* name : {"barrow_lane", "hedgerow"}) {
    SCOPED_TRACE(name);
    const Review review = review_rules(load(name), options).value();
    EXPECT_EQ(review.ending, Ending::positions);
    EXPECT_EQ(answer(review, "effect").verdict, Verdict::holds);
  }
}

// Chance may leave everything as it is beside a move that does nothing.
TEST(Review, FindsAnIdleMoveBesideChanceBeyondWhatIsExplored) {
  std::string rules = R"(
    (role gardener) (role random) (init (rung 0)) (init (weather fair))
    (legal gardener (climb up)) (<= (legal gardener (climb round)) (true (rung 12)))
    (legal random (wind fair)) (legal random (wind foul))
    (<= (next (weather ?wind)) (does random (wind ?wind)))
    (<= (next (rung ?more)) (does gardener (climb up)) (true (rung ?number)) (after ?number ?more))
    (<= (next (rung ?number)) (does gardener (climb round)) (true (rung ?number)))
    (<= terminal (true (rung 14)))
    (goal gardener 100)
  )";
  for (int n = 0; n < 14; ++n) rules += fmt::format("(after {} {})", n, n + 1);
  const Game game = Game::from_text(rules).value();
  ReviewOptions options;
  const Review whole = review_rules(game, options).value();
  ASSERT_TRUE(whole.complete());
  EXPECT_EQ(answer(whole, "effect").verdict, Verdict::suspicious);
  options.budget.positions = 4;
  const Review few = review_rules(game, options).value();
  ASSERT_FALSE(few.complete());
  EXPECT_EQ(answer(few, "effect").verdict, Verdict::suspicious);
  EXPECT_EQ(answer(few, "effect").evidence.text(), answer(whole, "effect").evidence.text());
  const Line& line = *answer(few, "effect").line;
  EXPECT_THAT(line.joints.back().to_string(), HasSubstr("(climb round)"));
  EXPECT_EQ(line.positions[line.positions.size() - 2], line.last());
}

TEST(Review, LeavesOutWhatIsAllowed) {
  ReviewOptions options;
  options.allow = {"winnable", "turns"};
  const Review review = review_rules(load("snails"), options).value();
  for (const Answer& one : review.questions) {
    EXPECT_THAT(one.id, Not(HasSubstr("winnable")));
    EXPECT_NE(one.id, "turns");
  }
}

TEST(Review, TheOutcomeTableOfOneDayIsDerived) {
  const Review review = review_rules(load("market_day", {{"days", 1}})).value();
  EXPECT_EQ(answer(review, "outcomes").evidence.text(),
            "what each joint move comes to (goals of hill and vale):\n"
            "  hill \\ vale  (ask fair)  (ask high)   (ask low)\n"
            "  (ask fair)        50 50       100 0       0 100\n"
            "  (ask high)        0 100       50 50       100 0\n"
            "  (ask low)         100 0       0 100       50 50");
}

// Where memory is too little to keep what follows from every position, each is looked at by itself:
// what is found is the same.
TEST(Review, LooksAtPositionsThatAreTooManyToExplore) {
  const Game game = load("silo", {{"heights", 4}, {"bins", 4}});
  const testing::TemporaryFolder folder;
  ReviewOptions options;
  options.claims = folder.write(
      "some.claims",
      "(claim \"drawn\" (possible (and terminal (goal miller 50))))\n"
      "(claim \"decided\" (never (and terminal (goal baker 50))))\n"
      "(claim \"floating\" (never (and (true (place 4 1 miller)) (true (place 3 1 bare)))))\n"
      "(claim \"stacked\" (possible (and (true (place 4 1 miller)) (true (place 3 1 bare)))))\n"
      "(claim \"late\" (never (and (does miller (load 1)) (true (place 4 2 baker)))))\n"
      "(claim \"later\" (never (and (does baker (load 4)) (true (place 3 4 baker)) (true (place 4 "
      "1 "
      "baker)) (true (place 4 2 baker)) (true (place 4 3 miller)))))\n"
      "(claim \"both\" (never (and (does miller (load 1)) (does baker ?move))))\n"
      "(claim \"topped\" (possible (and (does baker (load 1)) (true (place 4 1 bare)) (true (place "
      "3 "
      "1 miller)))))\n"
      "(claim \"over\" (possible (and (does baker ?move) terminal)))");
  const Review whole = review_rules(game, options).value();
  ASSERT_TRUE(whole.complete());
  EXPECT_EQ(whole.looked_at, whole.positions);
  options.budget.memory_bytes = 1'000'000;
  for (const unsigned threads : {1u, 2u}) {
    options.threads = threads;
    const Review review = review_rules(game, options).value();
    EXPECT_FALSE(review.complete());
    EXPECT_LT(review.positions, whole.positions);
    EXPECT_EQ(review.looked_at, whole.positions);
    EXPECT_EQ(answer(review, "sum").evidence.text(), answer(whole, "sum").evidence.text());
    ASSERT_EQ(review.depths.size(), whole.depths.size());
    for (std::size_t d = 0; d < whole.depths.size(); ++d) {
      EXPECT_EQ(review.depths[d].positions, whole.depths[d].positions);
      EXPECT_EQ(review.depths[d].ends, whole.depths[d].ends);
    }
    for (const char* id : {"moves", "winnable:miller", "winnable:baker", "scored", "single-valued",
                           "draws", "settled", "effect"}) {
      EXPECT_EQ(answer(review, id).verdict, answer(whole, id).verdict) << id;
      EXPECT_EQ(answer(review, id).evidence.text().substr(0, 40),
                answer(whole, id).evidence.text().substr(0, 40));
    }
    for (std::size_t c = 0; c < whole.claims.size(); ++c) {
      EXPECT_EQ(review.claims[c].verdict, whole.claims[c].verdict) << review.claims[c].id;
      EXPECT_EQ(review.claims[c].evidence.text(), whole.claims[c].evidence.text());
      ASSERT_EQ(review.claims[c].line.has_value(), whole.claims[c].line.has_value());
      if (!whole.claims[c].line) continue;
      EXPECT_EQ(review.claims[c].line->joints.size(), whole.claims[c].line->joints.size());
      EXPECT_EQ(review.claims[c].line_title, whole.claims[c].line_title);
    }
    ASSERT_EQ(review.claims[5].id, "later");
    EXPECT_EQ(review.claims[5].line->joints.back().to_string(), "(wait (load 4))");
  }
  const Sought sought = find_position(game, "(and terminal (goal miller 50))", options).value();
  EXPECT_EQ(sought.ending, Ending::complete);
  EXPECT_EQ(sought.positions, whole.positions);
  EXPECT_TRUE(sought.shortest);
  EXPECT_EQ(sought.line->joints.size(), 16u);
}

// Every answer, with its numbers and its line, of all positions and of classes.
TEST(Review, IsTheSameWhateverTheThreads) {
  const std::pair<const char*, std::map<std::string, std::int64_t>> games[] = {
      {"silo", {{"heights", 4}, {"bins", 4}}},
      {"cellar", {{"kinds", 6}, {"tries", 7}}},
  };
  for (const auto& [name, sizes] : games) {
    const Game game = load(name, sizes);
    ReviewOptions options;
    options.claims = testing::source_path(std::string("games/") + name + ".claims");
    options.symmetry = ReviewOptions::Symmetry::always;
    const Review one = review_rules(game, options).value();
    ASSERT_TRUE(one.complete());
    EXPECT_GT(one.classes, 16'384u);  // more than one thread takes at a time
    options.threads = 3;
    const Review several = review_rules(game, options).value();
    const auto expect_same = [](const std::vector<Answer>& a, const std::vector<Answer>& b) {
      ASSERT_EQ(a.size(), b.size());
      for (std::size_t i = 0; i < a.size(); ++i) {
        EXPECT_EQ(a[i].id, b[i].id);
        EXPECT_EQ(a[i].verdict, b[i].verdict) << a[i].id;
        EXPECT_EQ(a[i].evidence.text(), b[i].evidence.text());
        ASSERT_EQ(a[i].line.has_value(), b[i].line.has_value());
        if (a[i].line) {
          EXPECT_EQ(a[i].line->joints, b[i].line->joints);
        }
      }
    };
    expect_same(several.questions, one.questions);
    expect_same(several.claims, one.claims);
    EXPECT_EQ(several.positions, one.positions);
    EXPECT_EQ(several.classes, one.classes);
  }
}

TEST(Review, RulesThatNeverTakePartAreNamedWithTheirPlaces) {
  const std::string rules = testing::read_file(testing::game_path("snails")) +
                            "\n(<= (goal ?snail 70)\n    (true (sits ?snail 1))\n    terminal)\n";
  const Review review = review_rules(Game::from_text(rules).value()).value();
  const Answer& dead = answer(review, "dead");
  EXPECT_EQ(dead.verdict, Verdict::suspicious);
  ASSERT_EQ(dead.places.size(), 1u);
  EXPECT_THAT(dead.places[0].place.source_line, HasSubstr("(goal ?snail 70)"));
  EXPECT_EQ(std::ranges::count(review.clauses, false, &ClauseUse::used), 1);
}

TEST(Review, RulesWithoutACircuitAreNotAsked) {
  // A counter in nested terms grows from ply to ply, and not it alone says when the game is over.
  const Game game = Game::from_text(R"(
    (role bee) (init (count zero)) (init light) (legal bee hum)
    (<= (next (count (more ?n))) (true (count ?n)))
    (<= (next light) (true light))
    (<= terminal (true (count (more (more (more zero))))) (true light))
    (goal bee 100)
  )")
                        .value();
  const Review review = review_rules(game).value();
  EXPECT_FALSE(review.not_asked.empty());
  EXPECT_TRUE(review.undecided());
  EXPECT_FALSE(review.complete());
}

TEST(Review, ThePageHoldsVerdictsBoardsAndRules) {
  const Game game = load("faulty/draw_never_noticed", {{"rows", 3}, {"columns", 3}});
  const Review review = review_rules(game).value();
  const std::string page = to_html(game, Picture(game), review);
  pugi::xml_document document;
  const auto parsed = document.load_string(page.c_str());
  EXPECT_TRUE(parsed) << parsed.description();
  EXPECT_THAT(page, HasSubstr("<td class=\"v fails\">fails</td>"));
  EXPECT_THAT(page, HasSubstr("west has no legal move"));
  EXPECT_THAT(page, HasSubstr("data:image/svg+xml;base64,"));
  EXPECT_THAT(page, HasSubstr("(&lt;= (wins ?gardener)"));
  EXPECT_THAT(page, Not(HasSubstr("http://")));
  EXPECT_THAT(page, Not(HasSubstr("<script")));
}

// A line too long to be listed is cut, and the page says by how much.
TEST(Review, ThePageSaysWhatItLeavesOut) {
  std::string rules =
      "(role walker) (init (at 0)) (legal walker on) (<= terminal (true (at 210)))"
      "(<= (goal walker 100) (not terminal))"
      "(<= (next (at ?to)) (true (at ?from)) (after ?from ?to))";
  for (int i = 0; i < 210; ++i) rules += fmt::format("(after {} {})", i, i + 1);
  const Game game = Game::from_text(rules).value();
  const Review review = review_rules(game).value();
  const auto scored = std::ranges::find(review.questions, "scored", &Answer::id);
  ASSERT_NE(scored, review.questions.end());
  EXPECT_EQ(scored->verdict, Verdict::fails);
  ASSERT_EQ(scored->line.value().joints.size(), 210u);
  const std::string page = to_html(game, Picture(game), review);
  EXPECT_THAT(page, HasSubstr("\u2026 and 10 more plies, not listed here."));
}

TEST(Review, AGameWithoutFluentsIsLookedAt) {
  const Game game = Game::from_text(R"((role hill)
      (<= (legal ?seller (ask ?price)) (role ?seller) (price ?price)) (price fair) (price high)
      (<= terminal (true day)) (goal hill 100))")
                        .value();
  const Review review = review_rules(game).value();
  EXPECT_EQ(review.positions, 1u);
  PlayoutOptions options;
  options.games = 10;
  options.plies = 5;
  EXPECT_TRUE(run_playouts(game, options).ok());
}

}  // namespace
}  // namespace orchard::review_test
