// Reasons on random descriptions: whatever the brute-force evaluator derives has a proof, down to
// what is given; whatever it does not derive has none, and each attempt misses something.
#include <gtest/gtest.h>

#include <set>

#include "orchard/explain.hpp"
#include "orchard/playouts.hpp"
#include "support/naive_evaluator.hpp"
#include "support/random_rules.hpp"

namespace orchard::random_why_test {
namespace {

using testing::NaiveEvaluator;
using Kind = Reason::Kind;

class RandomWhy {
 public:
  explicit RandomWhy(std::uint64_t seed)
      : rules_(testing::random_rules(seed)),
        naive_(rules_),
        game_(Game::from_text(rules_).value()) {}

  void run(std::uint64_t seed) {
    WalkOptions options;
    options.seed = seed;
    options.plies = 4;
    (void)random_walk(game_, options, [&](const WalkStep& step) {
      NaiveEvaluator::Atoms facts;
      for (const Term& fluent : step.position.fluents()) {
        facts.insert("(true " + fluent.to_string() + ")");
      }
      look_at(step.position, std::nullopt, facts);
      if (!step.joint) return true;
      for (const Role& role : game_.roles()) {
        facts.insert("(does " + role.name() + " " + (*step.joint)[role].to_string() + ")");
      }
      look_at(step.position, step.joint, facts);
      return true;
    });
  }

  std::size_t proved() const { return proved_; }
  std::size_t refused() const { return refused_; }
  std::size_t tried() const { return tried_; }

 private:
  void look_at(const Position& position, const std::optional<JointMove>& joint,
               const NaiveEvaluator::Atoms& facts) {
    const NaiveEvaluator::Atoms derived = naive_.derive(facts);
    Circumstances here{position};
    here.joint = joint;
    for (const std::string& atom : derived) {
      if (atom.starts_with("(true ") || atom.starts_with("(does ")) continue;
      const auto answer = ask(here, atom);
      if (!answer) continue;
      SCOPED_TRACE(atom + "\n" + rules_);
      EXPECT_TRUE(answer->holds);
      check_proof(*answer, derived);
      ++proved_;
      known_.insert(atom);
    }
    // What held elsewhere and does not here.
    for (const std::string& atom : known_) {
      if (derived.contains(atom)) continue;
      const auto answer = ask(here, atom);
      if (!answer) continue;
      SCOPED_TRACE(atom + "\n" + rules_);
      EXPECT_FALSE(answer->holds);
      check_attempts(*answer, derived, facts);
      ++refused_;
    }
  }

  std::optional<Explanation> ask(const Circumstances& here, const std::string& atom) {
    const auto question = Question::parse(game_, atom);
    if (!question) return std::nullopt;
    const auto answer = why(game_, here, *question);
    if (!answer) return std::nullopt;  // it depends on a move, and none is made
    return *answer;
  }

  static bool stands(const Reason& reason, const NaiveEvaluator::Atoms& derived) {
    if (reason.atom.name() == "distinct") {
      return (reason.atom.arguments()[0] != reason.atom.arguments()[1]) != reason.negated;
    }
    return derived.contains(reason.atom.to_string()) != reason.negated;
  }

  void check_proof(const Explanation& answer, const NaiveEvaluator::Atoms& derived) {
    for (const Reason& reason : answer.reasons) {
      EXPECT_TRUE(reason.holds) << reason.literal();
      EXPECT_TRUE(stands(reason, derived)) << reason.literal();
      EXPECT_TRUE(reason.atom.is_ground()) << reason.literal();
      EXPECT_TRUE(reason.kind != Kind::attempts && reason.kind != Kind::no_rule);
    }
  }

  // If what is missing in an attempt held, its atom would hold: tried, where nothing has to go.
  void check_what_if(const Explanation& answer, const Reason& attempt,
                     const NaiveEvaluator::Atoms& facts) {
    NaiveEvaluator::Atoms with = facts;
    std::vector<std::string> absent;  // conditions that say so, which the addition must not touch
    for (const std::size_t number : attempt.conditions) {
      const Reason& condition = answer.reasons[number];
      if (!condition.atom.is_ground() || condition.atom.name() == "distinct") {
        if (!condition.holds) return;
        continue;
      }
      if (condition.negated && !condition.holds) return;
      if (condition.negated) absent.push_back(condition.atom.to_string());
      if (!condition.negated) with.insert(condition.atom.to_string());
    }
    const NaiveEvaluator::Atoms derived = naive_.derive(with);
    for (const std::string& atom : absent) {
      if (derived.contains(atom)) return;
    }
    EXPECT_TRUE(derived.contains(attempt.atom.to_string())) << attempt.atom;
    ++tried_;
  }

  void check_attempts(const Explanation& answer, const NaiveEvaluator::Atoms& derived,
                      const NaiveEvaluator::Atoms& facts) {
    for (const Reason& reason : answer.reasons) {
      if (reason.kind == Kind::attempt) {
        std::size_t missing = 0;
        for (const std::size_t condition : reason.conditions) {
          missing += answer.reasons[condition].holds ? 0 : 1;
        }
        EXPECT_GT(missing, 0u) << reason.atom;
        check_what_if(answer, reason, facts);
      } else if (reason.atom.is_ground()) {
        EXPECT_EQ(reason.holds, stands(reason, derived)) << reason.literal();
      }
    }
  }

  std::string rules_;
  NaiveEvaluator naive_;
  Game game_;
  std::set<std::string> known_;
  std::size_t proved_ = 0;
  std::size_t refused_ = 0;
  std::size_t tried_ = 0;  // attempts with what they miss added
};

TEST(RandomWhy, AgreesWithTheBruteForceEvaluator) {
  std::size_t proved = 0;
  std::size_t refused = 0;
  std::size_t tried = 0;
  for (std::uint64_t seed = 1; seed <= 60; ++seed) {
    SCOPED_TRACE(seed);
    RandomWhy run(seed);
    run.run(seed);
    proved += run.proved();
    refused += run.refused();
    tried += run.tried();
  }
  EXPECT_GT(proved, 1000u);
  EXPECT_GT(refused, 200u);
  EXPECT_GT(tried, 100u);
}

}  // namespace
}  // namespace orchard::random_why_test
