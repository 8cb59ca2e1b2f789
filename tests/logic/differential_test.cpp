// The reference evaluator against the brute-force one, on random descriptions and the demo games.
#include <gtest/gtest.h>

#include "logic/evaluator.hpp"
#include "orchard/random.hpp"
#include "support/files.hpp"
#include "support/naive_evaluator.hpp"
#include "support/random_rules.hpp"

namespace orchard::logic::differential_test {
namespace {

using testing::NaiveEvaluator;
using TextSet = std::set<std::string>;

// Plays random plies and compares everything asked of a position and of a step.
class Comparison {
 public:
  explicit Comparison(const std::string& rules) : naive_(rules) {
    Diagnostics diagnostics;
    auto description = rules::Description::build(syntax::Source("r", rules), {}, diagnostics);
    EXPECT_NE(description, nullptr) << diagnostics.render();
    program_ = Program::make(description, {}).value();
    evaluator_ = std::make_unique<Evaluator>(program_);
    for (const TermId role : program_->description().roles()) roles_.push_back(text(role));
  }

  int play(std::uint64_t seed, int plies) {
    Random random(seed);
    std::vector<TermId> fluents = program_->initial();
    EXPECT_EQ(texts(fluents), NaiveEvaluator::arguments_of(naive_.derive({}), "init"));
    int positions = 0;
    for (int ply = 0; ply < plies; ++ply, ++positions) {
      NaiveEvaluator::Atoms facts;
      for (const TermId fluent : fluents) facts.insert("(true " + text(fluent) + ")");
      evaluator_->set_position(fluents);
      const NaiveEvaluator::Atoms derived = naive_.derive(facts);
      const auto legal = evaluator_->legal();
      EXPECT_EQ(by_role(legal), NaiveEvaluator::arguments_of(derived, "legal"));
      EXPECT_EQ(by_role(evaluator_->goals()), NaiveEvaluator::arguments_of(derived, "goal"));
      EXPECT_EQ(evaluator_->terminal(), derived.contains("terminal"));
      if (evaluator_->terminal()) break;
      std::vector<TermId> joint;
      for (std::size_t r = 0; r < legal.size(); ++r) {
        if (legal[r].empty()) return positions;
        joint.push_back(legal[r][random.below(legal[r].size())]);
        facts.insert("(does " + roles_[r] + " " + text(joint.back()) + ")");
      }
      evaluator_->set_joint_move(joint);
      const NaiveEvaluator::Atoms step = naive_.derive(facts);
      EXPECT_EQ(by_role(evaluator_->percepts()), NaiveEvaluator::arguments_of(step, "sees"));
      fluents = evaluator_->next();
      EXPECT_EQ(texts(fluents), NaiveEvaluator::arguments_of(step, "next"));
    }
    return positions;
  }

 private:
  std::string text(TermId id) const { return program_->terms().text(id); }
  TextSet texts(const std::vector<TermId>& ids) const {
    TextSet result;
    for (const TermId id : ids) result.insert(text(id));
    return result;
  }
  TextSet by_role(const std::vector<std::vector<TermId>>& terms) const {
    TextSet result;
    for (std::size_t r = 0; r < terms.size(); ++r) {
      for (const TermId id : terms[r]) result.insert(roles_[r] + " " + text(id));
    }
    return result;
  }

  NaiveEvaluator naive_;
  std::shared_ptr<const Program> program_;
  std::unique_ptr<Evaluator> evaluator_;
  std::vector<std::string> roles_;
};

TEST(Differential, RandomDescriptionsMeanTheSame) {
  int positions = 0;
  for (std::uint64_t seed = 0; seed < 150; ++seed) {
    const std::string rules = testing::random_rules(seed);
    positions += Comparison(rules).play(seed, 4);
    if (::testing::Test::HasFailure()) FAIL() << "seed " << seed << "\n" << rules;
  }
  std::printf("compared %d positions\n", positions);
  EXPECT_GT(positions, 200);  // the generator makes games that go on
}

// The plain rules of a demo game, as one text.
std::string plain_rules(const std::string& path) {
  Diagnostics diagnostics;
  const auto source = syntax::Source::from_file(path).value();
  return syntax::read_description(source, {}, {}, diagnostics).canonical_text();
}

TEST(Differential, DemoGamesMeanTheSame) {
  for (const std::string& path : testing::demo_games()) {
    // Too much for an evaluator this naive; cases and counts look at it elsewhere.
    if (path == testing::game_path("skep")) continue;
    SCOPED_TRACE(path);
    EXPECT_GT(Comparison(plain_rules(path)).play(1, 3), 2);
  }
}

}  // namespace
}  // namespace orchard::logic::differential_test
