// What the rules can ever make of a term: nothing that play shows is refused, and slips are.
#include "game/known_terms.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "game/core.hpp"
#include "orchard/random.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::known_terms_test {
namespace {

using ::testing::HasSubstr;

std::string fault_text(const std::optional<KnownTerms::Fault>& fault) {
  return fault ? fault->in_one_line() : "";
}

// Everything that a few random games show; how many terms that were.
std::size_t expect_known(const Game& game, std::uint64_t seed) {
  const KnownTerms& known = GameAccess::core(game)->known_terms();
  std::size_t seen = 0;
  const auto expect = [&](const std::string& what, const std::optional<KnownTerms::Fault>& fault) {
    ++seen;
    EXPECT_EQ(fault_text(fault), "") << game.name() << " shows " << what;
  };
  Random random(seed);
  for (int number = 0; number < 4; ++number) {
    Position position = game.initial();
    for (int ply = 0; ply < 30; ++ply) {
      for (const Term& fluent : position.fluents()) {
        expect(fluent.to_string(), known.fault_in_fluent(fluent));
      }
      JointMove joint;
      for (const Role& role : game.roles()) {
        const std::vector<Move> legal = game.legal(position, role);
        const Term name = Term::constant(role.name());
        for (const Move& move : legal) {
          expect(move.to_string(),
                 known.fault_in_atom(Term::function("legal", {name, move.term()})));
        }
        for (const Term& goal : game.goals(position, role)) {
          expect(goal.to_string(), known.fault_in_atom(Term::function("goal", {name, goal})));
        }
        if (!legal.empty()) joint.add(legal[random.below(legal.size())]);
      }
      if (game.terminal(position) || joint.size() != game.roles().size()) break;
      for (const Role& role : game.roles()) {
        const std::vector<Term> percepts = game.percepts(position, joint, role).value();
        for (const Term& percept : percepts) {
          const Term name = Term::constant(role.name());
          expect(percept.to_string(), known.fault_in_atom(Term::function("sees", {name, percept})));
        }
      }
      const auto next = game.next(position, joint);
      if (!next) break;
      position = *next;
    }
  }
  return seen;
}

TEST(KnownTerms, RefuseNothingThatPlayShows) {
  std::vector<std::string> paths = testing::demo_games();
  for (const std::string& path : testing::corpus_games()) paths.push_back(path);
  for (const std::string& path : paths) {
    EXPECT_GT(expect_known(Game::load(path).value(), 1), 10u) << path;
  }
}

TEST(KnownTerms, RefuseNothingThatRandomRulesShow) {
  std::size_t seen = 0;
  for (std::uint64_t seed = 1; seed <= 150; ++seed) {
    const auto game = Game::from_text(testing::random_rules(seed));
    if (game) seen += expect_known(*game, seed);
  }
  EXPECT_GT(seen, 10'000u);
}

TEST(KnownTerms, TermsMayComeByVariables) {
  const Game game = Game::from_text(R"(
    (role r) (lamp (on red)) (init (shown (on red)))
    (<= (next ?lamp) (lamp ?lamp))
    (<= (legal r (press ?lamp)) (lamp ?lamp))
    (<= (sees r (pressed ?move)) (does r ?move))
    (goal r 50))")
                        .value();
  const KnownTerms& known = GameAccess::core(game)->known_terms();
  const auto text = [&](const char* atom) {
    return fault_text(known.fault_in_atom(Term::parse(atom).value()));
  };
  EXPECT_EQ(text("(true (on red))"), "");
  EXPECT_EQ(text("(true (shown (on red)))"), "");
  EXPECT_EQ(text("(legal r (press (on red)))"), "");
  EXPECT_EQ(text("(sees r (pressed (press (on red))))"), "");
  EXPECT_THAT(text("(true (on blue))"), HasSubstr("argument 1 of `on` is never blue"));
  EXPECT_THAT(text("(sees r (pressed (press (off red))))"), HasSubstr("is never (off red)"));
}

TEST(KnownTerms, SlipsAreRefusedWithWhatWasMeant) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const KnownTerms& known = GameAccess::core(game)->known_terms();
  const auto text = [&](const char* atom) {
    return fault_text(known.fault_in_atom(Term::parse(atom).value()));
  };
  EXPECT_EQ(text("(true (squar 1 1 east))"),
            "no rule makes a fluent like (squar 1 1 east); did you mean `square`?");
  EXPECT_EQ(text("(true (square 1 east))"),
            "no rule makes a fluent like (square 1 east); `square` takes 3 arguments there");
  EXPECT_EQ(text("(true (square 4 1 east))"),
            "(square 4 1 east) can never be: argument 1 of `square` is never 4; what can be "
            "there: 1 2 3");
  EXPECT_THAT(text("(true (square ?r 1 esat))"), HasSubstr("did you mean `east`?"));
  EXPECT_THAT(text("(legal eest (tie 1 1))"),
              HasSubstr("eest is not a role; did you mean `east`?"));
  EXPECT_THAT(text("(legal east (tei 1 1))"), HasSubstr("no rule makes a move like (tei 1 1)"));
  EXPECT_THAT(text("(goal east 55)"), HasSubstr("argument 2 of `goal` is never 55"));
  EXPECT_EQ(text("(true (square ?row ?column ?what))"), "");
  EXPECT_EQ(text("terminal"), "");
}

}  // namespace
}  // namespace orchard::known_terms_test
