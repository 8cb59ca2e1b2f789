#include "logic/evaluator.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fmt/core.h>

namespace orchard::logic::evaluator_test {
namespace {

using ::testing::ElementsAre;
using ::testing::IsEmpty;

std::shared_ptr<const Program> program_of(const std::string& rules, const Limits& limits = {}) {
  Diagnostics diagnostics;
  auto description = rules::Description::build(syntax::Source("t", rules), {}, diagnostics);
  EXPECT_NE(description, nullptr) << diagnostics.render();
  return Program::make(description, limits).value();
}

class Bench {
 public:
  explicit Bench(const std::string& rules, const Limits& limits = {})
      : program_(program_of("(role r)" + rules, limits)), evaluator_(program_) {
    evaluator_.set_position(program_->initial());
  }

  // The instances of a relation as text, in order.
  std::vector<std::string> all(const std::string& relation, std::uint32_t arity) {
    const Table& table = evaluator_.instances(*program_->description().find(relation, arity));
    std::vector<std::string> rows;
    for (std::uint32_t row = 0; row < table.rows(); ++row) {
      std::string text;
      for (std::uint32_t column = 0; column < arity; ++column) {
        text += (column ? " " : "") + program_->terms().text(table.row(row)[column]);
      }
      rows.push_back(text);
    }
    std::ranges::sort(rows);
    return rows;
  }
  void set_position(const std::vector<std::string>& fluents) {
    std::vector<TermId> ids;
    for (const auto& text : fluents)
      ids.push_back(program_->terms().add(Term::parse(text).value()));
    evaluator_.set_position(ids);
  }
  std::vector<std::string> after(const std::string& move) {
    const std::vector<TermId> joint{program_->terms().add(Term::parse(move).value())};
    evaluator_.set_joint_move(joint);
    return texts(evaluator_.next());
  }
  std::vector<std::string> texts(const std::vector<TermId>& ids) {
    std::vector<std::string> result;
    for (const TermId id : ids) result.push_back(program_->terms().text(id));
    std::ranges::sort(result);
    return result;
  }
  Evaluator& evaluator() { return evaluator_; }

 private:
  std::shared_ptr<const Program> program_;
  Evaluator evaluator_;
};

TEST(Evaluator, ClosesRecursionOnCycles) {
  Bench bench(
      "(e a b)(e b c)(e c a)(e c d)"
      "(<= (reach ?x ?y) (e ?x ?y)) (<= (reach ?x ?z) (reach ?x ?y) (e ?y ?z))");
  EXPECT_EQ(bench.all("reach", 2).size(), 12u);
}

TEST(Evaluator, JoinsRecursionWithItself) {
  std::string rules = "(<= (path ?x ?y) (e ?x ?y)) (<= (path ?x ?z) (path ?x ?y) (path ?y ?z))";
  for (int i = 0; i < 30; ++i) rules += fmt::format("(e {} {})", i, i + 1);
  EXPECT_EQ(Bench(rules).all("path", 2).size(), 30u * 31 / 2);
}

TEST(Evaluator, FollowsMutualRecursion) {
  Bench bench(
      "(s 0 1)(s 1 2)(s 2 3)(s 3 4)"
      "(even 0) (<= (odd ?y) (even ?x) (s ?x ?y)) (<= (even ?y) (odd ?x) (s ?x ?y))");
  EXPECT_THAT(bench.all("even", 1), ElementsAre("0", "2", "4"));
  EXPECT_THAT(bench.all("odd", 1), ElementsAre("1", "3"));
}

TEST(Evaluator, NegatesWhatIsCompleteByThen) {
  Bench bench(
      "(d 1)(d 2)(d 3) (init (on 2)) (<= (lit ?x) (true (on ?x)))"
      "(<= (dark ?x) (d ?x) (not (lit ?x))) (<= all_dark (not some_lit))"
      "(<= some_lit (lit ?x))");
  EXPECT_THAT(bench.all("dark", 1), ElementsAre("1", "3"));
  EXPECT_THAT(bench.all("all_dark", 0), IsEmpty());
  bench.set_position({});
  EXPECT_THAT(bench.all("dark", 1), ElementsAre("1", "2", "3"));
  EXPECT_EQ(bench.all("all_dark", 0).size(), 1u);
}

TEST(Evaluator, TakesTermsApartAndBuildsThem) {
  Bench bench(
      "(init (has (pair a (pair b c)))) (init (has (pair d d)))"
      "(<= (inner ?y ?z) (true (has (pair ?x (pair ?y ?z)))))"
      "(<= (twin ?x) (true (has (pair ?x ?x))))"
      "(<= (swapped (pair ?y ?x)) (true (has (pair ?x ?y))))");
  EXPECT_THAT(bench.all("inner", 2), ElementsAre("b c"));
  EXPECT_THAT(bench.all("twin", 1), ElementsAre("d"));
  EXPECT_THAT(bench.all("swapped", 1), ElementsAre("(pair (pair b c) a)", "(pair d d)"));
}

TEST(Evaluator, ReadsWholeFluentsAsVariables) {
  Bench bench(
      "(init (a 1)) (init lone) (init (b 1 2)) (<= (copy ?f) (true ?f))"
      "(<= (next ?f) (true ?f) (distinct ?f lone))");
  EXPECT_THAT(bench.all("copy", 1), ElementsAre("(a 1)", "(b 1 2)", "lone"));
  EXPECT_THAT(bench.after("m"), ElementsAre("(a 1)", "(b 1 2)"));
}

TEST(Evaluator, ExpandsOrAndNestedNegation) {
  Bench bench(
      "(d 1)(d 2)(d 3)(d 4) (p 1)(p 2) (q 2)(q 3)"
      "(<= (either ?x) (d ?x) (or (p ?x) (q ?x)))"
      "(<= (both ?x) (d ?x) (not (or (not (p ?x)) (not (q ?x)))))"
      "(<= (one ?x) (d ?x) (or (and (p ?x) (not (q ?x))) (and (q ?x) (not (p ?x)))))"
      "(<= (same ?x) (d ?x) (not (distinct ?x 3))) (<= never (or)) (<= always (and))"
      "(<= not_always (not (and)))");
  EXPECT_THAT(bench.all("either", 1), ElementsAre("1", "2", "3"));
  EXPECT_THAT(bench.all("both", 1), ElementsAre("2"));
  EXPECT_THAT(bench.all("one", 1), ElementsAre("1", "3"));
  EXPECT_THAT(bench.all("same", 1), ElementsAre("3"));
  EXPECT_THAT(bench.all("never", 0), IsEmpty());
  EXPECT_EQ(bench.all("always", 0).size(), 1u);
  EXPECT_THAT(bench.all("not_always", 0), IsEmpty());
}

TEST(Evaluator, ForgetsTheLastMoveAndPosition) {
  Bench bench(
      "(init (at 1)) (s 1 2)(s 2 3) (legal r go) (legal r stay)"
      "(<= (next (at ?y)) (true (at ?x)) (does r go) (s ?x ?y))"
      "(<= (next (at ?x)) (true (at ?x)) (does r stay))");
  EXPECT_THAT(bench.after("go"), ElementsAre("(at 2)"));
  EXPECT_THAT(bench.after("stay"), ElementsAre("(at 1)"));
  bench.set_position({"(at 2)"});
  EXPECT_THAT(bench.after("go"), ElementsAre("(at 3)"));
  bench.set_position({"(at 3)"});
  EXPECT_THAT(bench.after("go"), IsEmpty());
}

TEST(Evaluator, ListsMovesInTheOrderOfTerms) {
  Bench bench("(legal r (m 10)) (legal r (m 9)) (legal r b) (legal r a) (legal nobody x)");
  const auto legal = bench.evaluator().legal();
  ASSERT_EQ(legal.size(), 1u);
  std::vector<std::string> texts;
  for (const TermId id : legal[0]) texts.push_back(bench.evaluator().program().terms().text(id));
  EXPECT_THAT(texts, ElementsAre("a", "b", "(m 9)", "(m 10)"));
}

TEST(Evaluator, RefusesWhatGrowsPastTheLimits) {
  Limits few;
  few.rows = 1000;
  Bench bench("(<= (many ?x ?y ?z) (true (d ?x)) (true (d ?y)) (true (d ?z)))", few);
  bench.set_position({"(d 1)", "(d 2)", "(d 3)"});
  EXPECT_EQ(bench.all("many", 3).size(), 27u);
  std::vector<std::string> large;
  for (int i = 0; i < 20; ++i) large.push_back(fmt::format("(d {})", i));
  bench.set_position(large);
  EXPECT_THROW(bench.all("many", 3), LimitExceeded);
  bench.set_position({"(d 1)"});  // fit for use again
  EXPECT_EQ(bench.all("many", 3).size(), 1u);

  Limits steps;
  steps.join_steps = 100;
  Bench slow("(<= none (true (d ?x)) (true (d ?y)) (distinct ?x ?y) (not (distinct ?x ?y)))",
             steps);
  slow.set_position(large);
  EXPECT_THROW(slow.all("none", 0), LimitExceeded);
}

TEST(Evaluator, RefusesTermsThatGrowPlyByPly) {
  Bench bench("(init (n z)) (legal r go) (<= (next (n (s ?x))) (true (n ?x)))");
  std::vector<std::string> fluents{"(n z)"};
  int plies = 0;
  try {
    for (; plies < 200; ++plies) {
      bench.set_position(fluents);
      fluents = bench.after("go");
    }
  } catch (const LimitExceeded&) {
  }
  EXPECT_EQ(plies, 63);  // (n (s^63 z)) is nested 64 deep
}

// Doubling a term every ply writes it with 2^64 symbols; sharing must not hide that.
TEST(Evaluator, RefusesTermsThatDouble) {
  Bench bench("(init (n z)) (<= (next (n (p ?x ?x))) (true (n ?x)))");
  std::vector<std::string> fluents{"(n z)"};
  const auto play = [&] {
    for (int ply = 0; ply < 40; ++ply) {
      bench.set_position(fluents);
      fluents = bench.after("go");
    }
  };
  EXPECT_THROW(play(), LimitExceeded);
}

TEST(Program, RefusesConstantsThatExplodeNamingTheRule) {
  std::string rules = "(role r)";
  for (int i = 0; i < 100; ++i) rules += fmt::format("(d {})", i);
  rules += "\n(<= (init (f ?a ?b ?c ?e)) (d ?a) (d ?b) (d ?c) (d ?e))";
  Diagnostics diagnostics;
  const auto description =
      rules::Description::build(syntax::Source("big.gdl", rules), {}, diagnostics);
  Limits limits;
  limits.rows = 10'000;
  const auto program = Program::make(description, limits);
  ASSERT_FALSE(program.ok());
  EXPECT_THAT(
      program.diagnostics().render(),
      ::testing::StartsWith("big.gdl:2:5: error: more than 10000 instances in one position, "
                            "reached by this rule [too-large]"));
}

}  // namespace
}  // namespace orchard::logic::evaluator_test
