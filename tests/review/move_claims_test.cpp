// Claims about the moves that are made, beyond the positions that are explored.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>

#include "orchard/playouts.hpp"
#include "orchard/review.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::move_claims_test {
namespace {

// Claims about moves, with the start alone explored: random games and proofs never say what is not
// so, and the lines lead to a move that is asked for.
TEST(MoveClaims, BeyondWhatIsExploredAreAsThoseWithin) {
  std::map<Verdict, std::size_t> certain;
  const testing::TemporaryFolder folder;
  for (std::uint64_t seed = 1; seed <= 40; ++seed) {
    const auto game = Game::from_text(testing::random_rules(seed));
    if (!game) continue;
    WalkOptions walk;
    std::string claims;
    walk.plies = 6;
    (void)random_walk(*game, walk, [&](const WalkStep& step) {
      if (step.position.fluents().empty()) return true;
      const std::string fluent = step.position.fluents().back().to_string();
      const Role role = game->roles()[step.ply % game->roles().size()];
      for (const Move& move : game->legal(game->initial(), role)) {
        const std::string formula =
            "(and (does " + role.name() + " " + move.to_string() + ") (true " + fluent + "))";
        for (const char* kind : {"never", "possible"}) {
          claims +=
              "(claim \"" + std::to_string(claims.size()) + "\" (" + kind + " " + formula + "))";
        }
      }
      return true;
    });
    SCOPED_TRACE(testing::random_rules(seed) + claims);
    ReviewOptions options;
    options.claims = folder.write("some.claims", claims);
    options.allow = question_ids();
    options.budget.positions = 400;
    const auto whole = review_rules(*game, options);
    if (!whole || !whole->complete()) continue;
    options.budget.positions = 1;
    const Review few = review_rules(*game, options).value();
    if (few.complete()) continue;
    for (std::size_t c = 0; c < few.claims.size(); ++c) {
      if (few.claims[c].verdict == Verdict::unknown) continue;
      EXPECT_EQ(few.claims[c].verdict, whole->claims[c].verdict)
          << few.claims[c].id << few.claims[c].evidence.text() << "; "
          << whole->claims[c].evidence.text();
      EXPECT_EQ(few.claims[c].line.has_value(), whole->claims[c].line.has_value());
      if (few.claims[c].line) {
        EXPECT_GE(few.claims[c].line->joints.size(), whole->claims[c].line->joints.size());
      }
      ++certain[few.claims[c].verdict];
    }
  }
  for (const auto& [verdict, count] : certain) {
    std::printf("%s: %zu\n", std::string(name_of(verdict)).c_str(), count);
  }
  EXPECT_GT(certain[Verdict::holds], 20u);
  EXPECT_GT(certain[Verdict::fails], 10u);
}

// What a claim finds is a line whose last move is the one that it asks for; what it does not find
// in any position is proved. Two fly home in turn, and the game is over when both are there.
TEST(MoveClaims, ShowTheMoveAndAreProved) {
  const Game game = Game::from_text(R"(
    (role bee) (role wasp) (init (at bee 0)) (init (at wasp 0)) (init (turn bee))
    (other bee wasp) (other wasp bee)
    (<= (after ?n ?m) (step ?n ?m))
    (step 0 1) (step 1 2) (step 2 3) (step 3 4) (step 4 5) (step 5 6) (step 6 7)
    (<= (legal ?who (fly ?m)) (true (turn ?who)) (true (at ?who ?n)) (after ?n ?m))
    (<= (legal ?who rest) (true (turn ?who)) (true (at ?who 7)))
    (<= (legal ?who watch) (true (turn ?one)) (other ?who ?one))
    (<= (next (at ?who ?m)) (does ?who (fly ?m)))
    (<= (next (at ?who ?n)) (true (at ?who ?n)) (not (flies ?who)))
    (<= (flies ?who) (does ?who (fly ?m)))
    (<= (next (turn ?who)) (true (turn ?one)) (other ?who ?one))
    (<= terminal (true (at bee 7)) (true (at wasp 7)))
    (goal bee 50) (goal wasp 50)
  )")
                        .value();
  const testing::TemporaryFolder folder;
  ReviewOptions options;
  options.allow = question_ids();
  options.claims =
      folder.write("some.claims",
                   "(claim \"home\" (never (does wasp (fly 7))))\n"
                   "(claim \"comes home\" (possible (and (does wasp (fly 7)) (true (at bee 7)))))\n"
                   "(claim \"both fly\" (never (and (flies bee) (flies wasp))))\n"
                   "(claim \"home stays home\" (never (and (flies bee) (true (at bee 7)))))\n"
                   "(claim \"rests\" (possible (does bee rest)))");
  options.budget.positions = 3;
  const Review review = review_rules(game, options).value();
  ASSERT_FALSE(review.complete());
  const auto& claims = review.claims;
  EXPECT_EQ(claims[0].verdict, Verdict::fails);
  EXPECT_EQ(claims[0].line->joints.size(), 14u);
  EXPECT_EQ(claims[0].line->joints.back().to_string(), "(watch (fly 7))");
  EXPECT_EQ(claims[1].verdict, Verdict::holds);
  EXPECT_EQ(claims[1].line->joints.back().to_string(), "(watch (fly 7))");
  for (const std::size_t proved : {2u, 3u}) {
    EXPECT_EQ(claims[proved].verdict, Verdict::holds) << claims[proved].evidence.text();
    EXPECT_EQ(claims[proved].evidence.text(),
              "in every reachable position and every joint move: proved by induction");
  }
  // The wasp comes home right behind the bee, which never rests: that does not prove itself ply by
  // ply, and is worked out backwards.
  EXPECT_EQ(claims[4].verdict, Verdict::fails);
  EXPECT_EQ(claims[4].evidence.reach.kind, Reach::Kind::proved);
}

}  // namespace
}  // namespace orchard::move_claims_test
