// The reference evaluator against the brute-force one, on random descriptions and the demo games:
// with relations worked out as a whole, and with those asked that can be.
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

// Evaluators of the same rules, each with its own way of answering.
class Both {
 public:
  explicit Both(const std::shared_ptr<const rules::Description>& description) {
    using enum Program::Answering;
    for (const Program::Answering answering : {as_a_whole, when_asked}) {
      const auto program = Program::make(description, {}, answering).value();
      evaluators_.push_back(std::make_unique<Evaluator>(program));
    }
    for (const Program::Component& component : program().components()) {
      asked_ += component.asked.empty() ? 0 : 1;
      ask_themselves_ += !component.asked.empty() && component.asks_itself ? 1 : 0;
    }
  }

  const Program& program() const { return evaluators_.back()->program(); }
  // How many components answer for values, and of these depend on themselves.
  int asked() const { return asked_; }
  int ask_themselves() const { return ask_themselves_; }

  void set_position(const std::vector<TermId>& fluents) {
    for (const auto& evaluator : evaluators_) evaluator->set_position(fluents);
  }
  void set_joint_move(const std::vector<TermId>& joint) {
    for (const auto& evaluator : evaluators_) evaluator->set_joint_move(joint);
  }
  std::vector<std::vector<TermId>> legal() { return of_both(&Evaluator::legal); }
  std::vector<std::vector<TermId>> goals() { return of_both(&Evaluator::goals); }
  std::vector<std::vector<TermId>> percepts() { return of_both(&Evaluator::percepts); }
  std::vector<TermId> next() { return of_both(&Evaluator::next); }
  bool terminal() { return of_both(&Evaluator::terminal); }

 private:
  // What both say; they are asked in turn.
  template <class Answer>
  Answer of_both(Answer (Evaluator::*question)()) {
    const Answer answer = (evaluators_.front().get()->*question)();
    EXPECT_EQ((evaluators_.back().get()->*question)(), answer);
    return answer;
  }

  std::vector<std::unique_ptr<Evaluator>> evaluators_;
  int asked_ = 0;
  int ask_themselves_ = 0;
};

std::shared_ptr<const rules::Description> built(const std::string& rules) {
  Diagnostics diagnostics;
  auto description = rules::Description::build(syntax::Source("r", rules), {}, diagnostics);
  EXPECT_NE(description, nullptr) << diagnostics.render();
  return description;
}

// Plays random plies and compares everything asked of a position and of a step.
class Comparison {
 public:
  explicit Comparison(const std::string& rules) : naive_(rules), both_(built(rules)) {
    for (const TermId role : program().description().roles()) roles_.push_back(text(role));
  }

  const Both& both() const { return both_; }

  int play(std::uint64_t seed, int plies) {
    Random random(seed);
    std::vector<TermId> fluents = program().initial();
    EXPECT_EQ(texts(fluents), NaiveEvaluator::arguments_of(naive_.derive({}), "init"));
    int positions = 0;
    for (int ply = 0; ply < plies; ++ply, ++positions) {
      NaiveEvaluator::Atoms facts;
      for (const TermId fluent : fluents) facts.insert("(true " + text(fluent) + ")");
      both_.set_position(fluents);
      const NaiveEvaluator::Atoms derived = naive_.derive(facts);
      const auto legal = both_.legal();
      EXPECT_EQ(by_role(legal), NaiveEvaluator::arguments_of(derived, "legal"));
      EXPECT_EQ(by_role(both_.goals()), NaiveEvaluator::arguments_of(derived, "goal"));
      EXPECT_EQ(both_.terminal(), derived.contains("terminal"));
      if (both_.terminal()) break;
      std::vector<TermId> joint;
      for (std::size_t r = 0; r < legal.size(); ++r) {
        if (legal[r].empty()) return positions;
        joint.push_back(legal[r][random.below(legal[r].size())]);
        facts.insert("(does " + roles_[r] + " " + text(joint.back()) + ")");
      }
      both_.set_joint_move(joint);
      const NaiveEvaluator::Atoms step = naive_.derive(facts);
      EXPECT_EQ(by_role(both_.percepts()), NaiveEvaluator::arguments_of(step, "sees"));
      fluents = both_.next();
      EXPECT_EQ(texts(fluents), NaiveEvaluator::arguments_of(step, "next"));
    }
    return positions;
  }

 private:
  const Program& program() const { return both_.program(); }
  std::string text(TermId id) const { return program().terms().text(id); }
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
  Both both_;
  std::vector<std::string> roles_;
};

TEST(Differential, RandomDescriptionsMeanTheSame) {
  int positions = 0;
  int asked = 0;
  int ask_themselves = 0;
  for (std::uint64_t seed = 0; seed < 150; ++seed) {
    const std::string rules = testing::random_rules(seed);
    Comparison comparison(rules);
    positions += comparison.play(seed, 4);
    asked += comparison.both().asked();
    ask_themselves += comparison.both().ask_themselves();
    if (::testing::Test::HasFailure()) FAIL() << "seed " << seed << "\n" << rules;
  }
  std::printf("compared %d positions; %d components asked, of which %d depend on themselves\n",
              positions, asked, ask_themselves);
  EXPECT_GT(positions, 200);  // the generator makes games that go on
  EXPECT_GT(asked, 100);
  EXPECT_GT(ask_themselves, 20);
}

// The plain rules of a demo game, as one text.
std::string plain_rules(const std::string& path,
                        const std::map<std::string, std::int64_t>& sizes = {}) {
  Diagnostics diagnostics;
  const auto source = syntax::Source::from_file(path).value();
  return syntax::read_description(source, {}, sizes, diagnostics).canonical_text();
}

TEST(Differential, DemoGamesMeanTheSame) {
  for (const std::string& path : testing::demo_games()) {
    // Too much for an evaluator this naive; cases and counts look at it elsewhere.
    if (path == testing::game_path("skep")) continue;
    SCOPED_TRACE(path);
    const bool large = path == testing::game_path("graft");
    const std::string rules =
        large ? plain_rules(path, {{"rows", 4}, {"columns", 4}}) : plain_rules(path);
    EXPECT_GT(Comparison(rules).play(1, 3), 2);
  }
}

// Relations that rest on one another so deeply that nobody is asked: worked out in order.
TEST(Asked, NotWhereQuestionsWouldNestTooDeeply) {
  std::string rules =
      "(role r) (init (at 0)) (<= (legal r go) (p400 0)) (<= (p0 ?x) (true (at ?x)))"
      "(<= (next (at 1)) (does r go)) (<= terminal (true (at 1))) (goal r 100)";
  for (int p = 1; p <= 400; ++p) {
    rules += "(<= (p" + std::to_string(p) + " ?x) (p" + std::to_string(p - 1) + " ?x))";
  }
  Both both(built(rules));
  EXPECT_FALSE(both.program().answers_when_asked());
  EXPECT_EQ(both.asked(), 0);
  both.set_position(both.program().initial());
  ASSERT_EQ(both.legal().front().size(), 1u);
  both.set_joint_move({both.legal().front().front()});
  EXPECT_EQ(both.next().size(), 1u);
}

// Where there are too many plies for the brute-force evaluator, both ways are compared.
TEST(Asked, AnswersAsWhatIsWorkedOutAsAWhole) {
  std::vector<std::string> paths = testing::all_demo_games();
  std::ranges::copy(testing::corpus_games(), std::back_inserter(paths));
  int asked = 0;
  for (const std::string& path : paths) {
    SCOPED_TRACE(path);
    Both both(built(plain_rules(path)));
    asked += both.asked();
    Random random(7);
    std::vector<TermId> fluents = both.program().initial();
    for (int ply = 0; ply < 12 && !::testing::Test::HasFailure(); ++ply) {
      both.set_position(fluents);
      both.goals();
      std::vector<TermId> joint;
      if (!both.terminal()) {
        for (const std::vector<TermId>& moves : both.legal()) {
          if (!moves.empty()) joint.push_back(moves[random.below(moves.size())]);
        }
      }
      if (joint.size() < both.program().description().roles().size()) break;
      both.set_joint_move(joint);
      both.percepts();
      fluents = both.next();
    }
  }
  EXPECT_GT(asked, 150);
}

}  // namespace
}  // namespace orchard::logic::differential_test
