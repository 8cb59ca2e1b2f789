// The judge of the engine: at every position of random games, legal moves, ends, values, percepts
// and what follows, of each executor, are those of the reference evaluator. For demo games and
// random descriptions; one that goes wrong is made as small as it can be and printed.
//
// ORCHARD_JUDGE_POSITIONS in the environment asks for more positions than the usual ones.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <cstdlib>

#include "game/core.hpp"
#include "game/lane_evaluator.hpp"
#include "orchard/circuit.hpp"
#include "orchard/random.hpp"
#include "support/files.hpp"
#include "support/random_rules.hpp"

namespace orchard::judge_test {
namespace {

using circuit::Executor;

struct Counts {
  int positions = 0;
  int descriptions = 0;
  int not_applicable = 0;  // no rules of a game, or too many instances
};

std::vector<Executor::Kind> kinds() {
  std::vector<Executor::Kind> result;
  for (const Executor::Kind kind : circuit::all_executor_kinds) {
    circuit::LaneProgram nothing;
    if (circuit::make_executor(nothing, kind)) result.push_back(kind);
  }
  return result;
}

// Games side by side on the lanes, each followed by the reference evaluator.
class Judge {
 public:
  Judge(const GameCore& core, const LaneGame& game, Executor::Kind kind)
      : lanes_(game, kind),
        ground_(game.ground()),
        reference_(core.shared_program()),
        start_(game.row(ground_.initial())) {}

  // What is different, if anything is.
  std::optional<std::string> play(std::size_t games, int plies, std::uint64_t seed,
                                  int& positions) {
    Random random(seed);
    std::vector<std::uint64_t> rows;
    for (std::size_t g = 0; g < games; ++g) rows.insert(rows.end(), start_.begin(), start_.end());
    for (int ply = 0; ply <= plies && games > 0; ++ply) {
      lanes_.set_positions(rows, games);
      std::vector<std::size_t> going_on;
      std::vector<std::vector<TermId>> wanted;
      std::vector<std::vector<std::vector<TermId>>> percepts;
      for (std::size_t g = 0; g < games; ++g) {
        ++positions;
        const auto position = terms(std::span(rows).subspan(g * lanes_.words(), lanes_.words()));
        reference_.set_position(position);
        if (auto fault = compare(g)) return fault;
        if (!choose(g, random)) continue;
        going_on.push_back(g);
        wanted.push_back(reference_.next());
        percepts.push_back(reference_.percepts());
      }
      lanes_.step();
      for (std::size_t i = 0; i < going_on.size(); ++i) {
        const auto next = lanes_.next(going_on[i]);
        std::ranges::copy(next, rows.begin() + static_cast<std::ptrdiff_t>(i * lanes_.words()));
        if (terms(next) != wanted[i])
          return "next: " + text(terms(next)) + " not " + text(wanted[i]);
        for (std::size_t role = 0; role < percepts[i].size(); ++role) {
          std::vector<std::uint32_t> numbers;
          lanes_.percepts(going_on[i], role, numbers);
          std::vector<TermId> sees;
          for (const auto n : numbers) sees.push_back(ground_.percepts()[role][n].term);
          if (sees != percepts[i][role]) return "sees: " + text(sees);
        }
      }
      games = going_on.size();
    }
    return std::nullopt;
  }

 private:
  std::string text(const std::vector<TermId>& ids) const {
    std::string result;
    for (const TermId id : ids) result += ground_.terms().text(id) + " ";
    return result;
  }
  std::vector<TermId> terms(std::span<const std::uint64_t> row) const {
    std::vector<TermId> result;
    for (std::size_t f = 0; f < ground_.fluents().size(); ++f) {
      if ((row[f / 64] >> (f % 64) & 1) != 0) result.push_back(ground_.fluents()[f].term);
    }
    std::ranges::sort(result);
    return result;
  }

  std::optional<std::string> compare(std::size_t game) {
    legal_ = reference_.legal();
    const auto goals = reference_.goals();
    std::vector<std::uint32_t> numbers;
    for (std::size_t role = 0; role < legal_.size(); ++role) {
      lanes_.legal(game, role, numbers);
      std::vector<TermId> got;
      for (const auto n : numbers) got.push_back(ground_.moves()[role][n].term);
      if (got != legal_[role]) return "legal: " + text(got) + "not " + text(legal_[role]);
      if (lanes_.legal_count(game, role) != got.size()) return "number of legal moves";
      lanes_.goals(game, role, numbers);
      got.clear();
      for (const auto n : numbers) got.push_back(ground_.goals()[role][n].term);
      if (got != goals[role]) return "goals: " + text(got) + "not " + text(goals[role]);
    }
    if (lanes_.terminal(game) != reference_.terminal()) return "terminal";
    return std::nullopt;
  }

  // A joint move for both; false if there is none, or the game is over.
  bool choose(std::size_t game, Random& random) {
    if (reference_.terminal()) return false;
    std::vector<TermId> joint;
    std::vector<std::uint32_t> numbers;
    for (std::size_t role = 0; role < legal_.size(); ++role) {
      if (legal_[role].empty()) return false;
      joint.push_back(legal_[role][random.below(legal_[role].size())]);
      numbers.push_back(lanes_.game().move_number(role, joint.back()).value());
    }
    reference_.set_joint_move(joint);
    lanes_.set_joint(game, numbers);
    return true;
  }

  LaneEvaluator lanes_;
  const ground::GroundProgram& ground_;
  logic::Evaluator reference_;
  std::vector<std::uint64_t> start_;
  std::vector<std::vector<TermId>> legal_;
};

std::optional<std::string> judge(const Result<Game>& game, std::size_t games, int plies,
                                 std::uint64_t seed, Counts& counts) {
  if (!game) {
    ++counts.not_applicable;
    return std::nullopt;
  }
  const GameCore& core = *GameAccess::core(*game);
  const LaneGame* const lanes = core.lanes();
  if (lanes == nullptr) {
    ++counts.not_applicable;
    return std::nullopt;
  }
  ++counts.descriptions;
  for (const Executor::Kind kind : kinds()) {
    if (auto fault = Judge(core, *lanes, kind).play(games, plies, seed, counts.positions)) {
      return std::string(circuit::name_of(kind)) + ": " + *fault;
    }
  }
  return std::nullopt;
}

int positions_asked_for(int usual) {
  const char* const text = std::getenv("ORCHARD_JUDGE_POSITIONS");
  return text == nullptr ? usual : std::atoi(text);
}

TEST(Judge, DemoGamesAndOtherStyles) {
  Counts counts;
  std::vector<std::string> games = testing::demo_games();
  for (const std::string& path : testing::corpus_games()) games.push_back(path);
  const int share = positions_asked_for(4000) / static_cast<int>(games.size());
  for (const std::string& path : games) {
    const Game game = with_reached_circuit(Game::load(path).value(), {}).value();
    const int before = counts.positions;
    for (std::uint64_t seed = 0; counts.positions - before < share; ++seed) {
      // Few games a round, so that large descriptions do not take long; long ones, to see their
      // end.
      const auto fault = judge(game, 2, 300, seed, counts);
      ASSERT_EQ(fault, std::nullopt) << path;
    }
  }
  std::printf("%d positions compared\n", counts.positions);
}

TEST(Judge, RandomDescriptions) {
  Counts counts;
  const int asked = positions_asked_for(10'000);
  for (std::uint64_t seed = 1000; counts.positions < asked; ++seed) {
    const std::string rules = testing::random_rules(seed);
    LoadOptions options;
    options.term_depth = 8;
    const auto fault = judge(Game::from_text(rules, "random.gdl", options), 3, 12, seed, counts);
    if (!fault) continue;
    const auto fails = [&](const std::string& smaller) {
      Counts ignored;
      return judge(Game::from_text(smaller, "random.gdl", options), 3, 12, seed, ignored)
          .has_value();
    };
    FAIL() << "seed " << seed << ": " << *fault << "\n" << shrink_text(rules, fails);
  }
  std::printf("%d positions of %d random descriptions compared, %d not applicable\n",
              counts.positions, counts.descriptions, counts.not_applicable);
}

}  // namespace
}  // namespace orchard::judge_test
