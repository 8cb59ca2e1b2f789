// Instantiation: exact texts of small ground programs, what never changes is gone, bounds say what
// is too large.
#include "ground/ground_program.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fmt/core.h>

#include "orchard/batch.hpp"
#include "orchard/circuit.hpp"
#include "support/files.hpp"

namespace orchard::ground::ground_program_test {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

std::shared_ptr<const rules::Description> describe(const std::string& rules) {
  Diagnostics diagnostics;
  auto description = rules::Description::build(syntax::Source("pea.gdl", rules), {}, diagnostics);
  EXPECT_NE(description, nullptr) << diagnostics.render();
  return description;
}

std::string ground(const std::string& rules) {
  const auto program = GroundProgram::make(describe(rules), {});
  return program ? (*program)->text() : program.diagnostics().render();
}

// Lines in any order: the order of clauses is the instantiator's own.
std::multiset<std::string> lines(const std::string& text) {
  std::multiset<std::string> result;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = text.find('\n', at);
    result.insert(text.substr(at, end - at));
    at = end + 1;
  }
  return result;
}

// Steps that nothing bounds but the end of the game: what holds at ends alone leads nowhere.
TEST(Ground, AStateGrowsNoFurtherThanTheEnd) {
  const std::string climb =
      "(role r) (init (step base)) (legal r climb)"
      "(<= (next (step (up ?s))) (does r climb) (true (step ?s)))";
  const std::string top = "(<= (top ?s) (true (step ?s)) (high ?s)) (high (up (up (up base))))";
  EXPECT_THAT(ground(climb + top), HasSubstr("too-many-instances"));
  const std::string ends = ground(climb + top + "(<= terminal (top ?s))");
  EXPECT_THAT(ends, HasSubstr("(next (step (up (up (up base)))))"));
  EXPECT_THAT(ends, ::testing::Not(HasSubstr("(up (up (up (up base))))")));
  // An end that asks for more than the step is no bound.
  EXPECT_THAT(ground(climb + top + "(init late) (<= terminal (top ?s) (true late))"),
              HasSubstr("too-many-instances"));
  EXPECT_THAT(ground(climb + top + "(init late) (<= terminal (top ?s) (not (true late)))"),
              HasSubstr("too-many-instances"));
}

TEST(Ground, WhatNeverChangesIsWorkedOut) {
  EXPECT_EQ(
      lines(ground("(role bee) (bed 1) (bed 2) (bed 3) (dry 2) (up 1 2) (up 2 3) (init (at 1))"
                   "(<= (wet ?b) (bed ?b) (not (dry ?b)))"
                   "(<= (legal bee (hop ?b)) (true (at ?a)) (up ?a ?b))"
                   "(<= (next (at ?b)) (does bee (hop ?b)) (wet ?b))"
                   "(<= terminal (true (at ?b)) (distinct ?b 1)) (goal bee 100)")),
      (std::multiset<std::string>{
          "(<= (legal bee (hop 2)) (true (at 1)))",  // bed 2 is dry: bed 3 is never reached
          "(goal bee 100)",
      }));
}

TEST(Ground, NegationsOfWhatMayChangeStay) {
  EXPECT_EQ(
      lines(ground("(role bee) (init (on)) (legal bee stop) (legal bee go)"
                   "(<= (next (on)) (true (on)) (not (does bee stop)) (not (broken)))"
                   "(<= (broken) (true (off))) (<= terminal (not (true (on)))) (goal bee 1)")),
      (std::multiset<std::string>{
          "(legal bee go)",
          "(legal bee stop)",
          // nothing is ever off, so nothing is ever broken
          "(<= (next on) (true on) (not (does bee stop)))",
          "(<= terminal (not (true on)))",
          "(goal bee 1)",
      }));
}

TEST(Ground, FluentsAndMovesGivenAsVariables) {
  const std::string text = ground(
      "(role bee) (role fly) (init (a 1)) (init b) (<= (legal ?r (go ?r)) (role ?r))"
      "(<= (next ?f) (true ?f) (not (gone ?f))) (<= (gone (a ?n)) (true (a ?n)) (does bee (go "
      "bee)))"
      "(<= (sees fly (did ?m)) (does bee ?m)) (<= terminal (not (true (a 1)))) (goal bee 1)"
      "(goal fly 1)");
  EXPECT_THAT(text, HasSubstr("(<= (next (a 1)) (true (a 1)) (not (gone (a 1))))"));
  EXPECT_THAT(text, HasSubstr("(<= (next b) (true b))\n"));
  EXPECT_THAT(text, HasSubstr("(<= (sees fly (did (go bee))) (does bee (go bee)))"));
  EXPECT_THAT(text, ::testing::Not(HasSubstr("(does bee (go fly))")));
}

// Each way to derive an atom once, although two of its conditions are of the same relation.
TEST(Ground, EveryInstanceOnce) {
  const std::string text = ground(
      "(role bee) (init (n 0)) (legal bee go) (<= (next (n 0)) (true (n 0)))"
      "(<= (next (n 1)) (true (n 0)))"
      "(<= (pair ?x ?y) (true (n ?x)) (true (n ?y))) (<= terminal (pair 1 1)) (goal bee 1)");
  int pairs = 0;
  for (const std::string& line : lines(text)) pairs += line.starts_with("(<= (pair") ? 1 : 0;
  EXPECT_EQ(pairs, 4);
}

TEST(Ground, ListsFluentsMovesAndValuesInOrder) {
  const auto program =
      GroundProgram::make(
          describe("(role b) (role a) (init (n 10)) (init (n 9)) (<= (legal ?r (m 2)) (role ?r))"
                   "(legal a (m 1)) (<= (next (n ?x)) (true (n ?x))) (<= terminal (true (n 9)))"
                   "(goal a 100) (goal a 50) (goal b 0)"),
          {})
          .value();
  std::vector<std::string> names;
  for (const auto& fluent : program->fluents()) names.push_back(program->terms().text(fluent.term));
  EXPECT_THAT(names, ElementsAre("(n 9)", "(n 10)"));
  EXPECT_EQ(program->moves()[0].size(), 1u);  // of b, the first role
  EXPECT_EQ(program->terms().text(program->moves()[1][0].term), "(m 1)");
  EXPECT_EQ(program->terms().text(program->goals()[1][0].term), "50");
  EXPECT_THAT(program->initial(), ElementsAre(true, true));
}

TEST(Ground, TooManyInstancesNameTheRuleAndItsRanges) {
  std::string rules =
      "(role bee) (init a) (legal bee go) (next a) (<= terminal (many)) (goal bee 1)\n";
  for (int i = 0; i < 30; ++i) rules += "(d " + std::to_string(i) + ")";
  rules += "\n(<= (many) (true a) (p ?x ?y ?z))\n(<= (p ?x ?y ?z) (true a) (d ?x) (d ?y) (d ?z))";
  Limits limits;
  limits.bytes = 1 << 20;
  const auto refused = GroundProgram::make(describe(rules), limits);
  ASSERT_FALSE(refused.ok());
  EXPECT_EQ(
      refused.diagnostics().render(),
      "pea.gdl:4:5: error: the circuit would take more than the 1 MB that it may; the rules are "
      "31840 clauses without variables so far; most by this rule [too-many-instances]\n"
      "   (<= (p ?x ?y ?z) (true a) (d ?x) (d ?y) (d ?z))\n"
      "       ^~~~~~~~~~~~\n"
      "   remedy: make the sizes smaller, split the rule, or raise --circuit-memory; its "
      "variables range: ?x over 30, ?y over 30, ?z over 30\n");
}

// A list that grows by every move has no end; a counter in nested terms has one.
TEST(Ground, AStateThatGrowsIsToldEarly) {
  const std::string song =
      "(role bee) (init (song end)) (legal bee (hum low)) (legal bee (hum high)) (goal bee 1)\n"
      "(<= (next (song (then ?tone ?song))) (true (song ?song)) (does bee (hum ?tone)))\n"
      "(<= terminal (true (song none)))";
  Limits limits;
  const auto grows = GroundProgram::make(describe(song), limits);
  ASSERT_FALSE(grows.ok());
  EXPECT_TRUE(grows.diagnostics().only_limits());
  EXPECT_THAT(grows.diagnostics().render(), HasSubstr("the state grows from ply to ply"));
  std::string counter = "(role bee) (init (n z)) (legal bee go) (goal bee 1)\n(some z)";
  std::string term = "z";
  for (int n = 0; n < 40; ++n) {
    term = "(s " + term + ")";
    counter += "(some " + term + ")";
  }
  counter +=
      "\n(<= (next (n (s ?n))) (true (n ?n)) (some ?n))\n(<= terminal (true (n " + term + ")))";
  EXPECT_TRUE(GroundProgram::make(describe(counter), limits).ok());
}

// A way over six beds that lie anywhere on eight rows and columns: twelve variables, of which each
// part knows four.
TEST(Ground, LongBodiesAreSplit) {
  std::string rules = "(role bee) (legal bee rest) (goal bee 100)\n";
  for (int n = 1; n <= 8; ++n) {
    rules += "(line " + std::to_string(n) + ") (up " + std::to_string(n) + " " +
             std::to_string(n % 8 + 1) + ")\n";
  }
  rules += R"(
    (<= (init (bed ?r ?c)) (line ?r) (line ?c))
    (<= (next (bed ?r ?c)) (true (bed ?r ?c)) (not (true (bed ?c ?r))))
    (<= (near ?r ?c ?s ?c) (line ?c) (up ?r ?s))
    (<= (near ?r ?c ?s ?c) (line ?c) (up ?s ?r))
    (<= (near ?r ?c ?r ?d) (line ?r) (up ?c ?d))
    (<= (near ?r ?c ?r ?d) (line ?r) (up ?d ?c))
    (<= terminal
        (true (bed ?a ?b)) (near ?a ?b ?c ?d) (true (bed ?c ?d)) (near ?c ?d ?e ?f)
        (true (bed ?e ?f)) (near ?e ?f ?g ?h) (true (bed ?g ?h)) (near ?g ?h ?i ?j)
        (true (bed ?i ?j)) (near ?i ?j ?k ?l) (true (bed ?k ?l))))";
  const auto program = GroundProgram::make(describe(rules), {});
  ASSERT_TRUE(program.ok()) << program.diagnostics().render();
  EXPECT_LT((*program)->clauses().size(), 2'000u);
  EXPECT_NE((*program)->text().find(" (terminal_part_3 3 5))\n"), std::string::npos);
  // Read back, the parts are relations like others.
  std::string again = "(role bee)\n";
  for (const auto& fluent : (*program)->fluents()) {
    again += "(init " + (*program)->terms().text(fluent.term) + ")\n";
  }
  EXPECT_TRUE(lines(ground(again + (*program)->text())) == lines((*program)->text()));
  Limits limits;
  limits.bytes = 1 << 20;
  limits.splitting.few_instances = 1e30;
  EXPECT_FALSE(GroundProgram::make(describe(rules), limits).ok());
}

// The same text from the ground rules again, for every demo game: nothing is lost or made up.
TEST(Ground, GroundRulesOfGroundRulesAreTheSame) {
  for (const char* name : {"espalier_3x3", "channel", "barrow_lane"}) {
    Diagnostics none;
    const auto description = rules::Description::build(
        syntax::Source::from_file(testing::game_path(name)).value(), {}, none);
    const auto once = GroundProgram::make(description, {}).value();
    std::string rules;
    for (const rules::TermId role : description->roles()) {
      rules += "(role " + description->terms().text(role) + ")\n";
    }
    for (const auto& fluent : once->fluents()) {
      if (fluent.initial) rules += "(init " + once->terms().text(fluent.term) + ")\n";
    }
    const std::string twice = ground(rules + once->text());
    EXPECT_EQ(lines(twice), lines(once->text())) << name;
  }
}

// Relations that play does not ask for are left out, unless somebody else asks.
TEST(GroundProgram, InstancesOfRelationsAskedForBeside) {
  const std::string rules = R"(
    (role r) (init (at 1)) (legal r go) (after 1 2) (after 2 3)
    (<= (next (at ?n)) (true (at ?m)) (after ?m ?n))
    (<= terminal (true (at 3))) (goal r 100)
    (<= (passed ?n) (true (at ?m)) (after ?n ?m))
    (<= (order ?a ?b) (after ?a ?b))
  )";
  Diagnostics diagnostics;
  const auto description = rules::Description::build(syntax::Source("r", rules), {}, diagnostics);
  ASSERT_NE(description, nullptr) << diagnostics.render();
  const RelationId passed = description->find("passed", 1).value();
  const RelationId order = description->find("order", 2).value();
  const auto plain = GroundProgram::make(description, {}).value();
  EXPECT_TRUE(plain->instances(passed).empty());
  const auto asked = GroundProgram::make(description, {}, {passed, order}).value();
  const auto instances = asked->instances(passed);
  ASSERT_EQ(instances.size(), 2u);  // past 1 and past 2
  for (const auto& instance : instances) {
    EXPECT_NE(instance.atom, no_atom);
    EXPECT_EQ(asked->phase(instance.atom), Phase::position);
  }
  ASSERT_EQ(asked->instances(order).size(), 2u);
  EXPECT_EQ(asked->instances(order).front().atom, no_atom);  // it holds in every position
  EXPECT_TRUE(asked->is_constant(order));
  EXPECT_FALSE(asked->is_constant(passed));
}

// What is no fluent and no move never holds, so its negation always does: the variable of a negated
// condition may stand for more than fluents, or moves.
TEST(Instantiation, NegatedConditionsOnWhatIsNoMoveOrFluentHold) {
  for (const char* condition : {"(not (does pull ?v))", "(not (does a ?v))", "(not (true ?v))",
                                "(not (does ?v go))", "(or (not (true ?v)) (k ?v))"}) {
    SCOPED_TRACE(condition);
    const std::string rules = fmt::format(
        "(role a) (init (m x)) (init (m (h y))) (init (m on)) (init on) (init (n 1))"
        "(<= (legal a (go ?x)) (k ?x)) (legal a on) (k x) (k y) (<= (next on) (does a on))"
        "(<= (next (m ?v)) (true (m ?v)) {})"
        "(<= (next (n ?k)) (true (n ?j)) (s ?j ?k)) (s 1 2) (s 2 3)"
        "(<= terminal (true (n 3))) (<= (goal a 100) (true (m x)))",
        condition);
    const Game game = Game::from_text(rules).value();
    LoadOptions options;
    options.circuit_bytes = 0;
    const Game reference = Game::from_text(rules, "rules", options).value();
    ASSERT_TRUE(has_circuit(game));
    ASSERT_FALSE(has_circuit(reference));
    std::vector<std::pair<Position, Position>> open{{game.initial(), reference.initial()}};
    while (!open.empty()) {
      const auto [position, same] = open.back();
      open.pop_back();
      ASSERT_EQ(position.to_string(), same.to_string());
      if (game.terminal(position)) continue;
      for (const Move& move : reference.legal(same, reference.roles()[0])) {
        Batch batch = Batch::make(game).value();
        ASSERT_TRUE(batch.assign(std::vector{position}).empty());
        ASSERT_TRUE(batch.advance(std::vector{JointMove({game.move(move.term())})}).empty());
        open.emplace_back(batch.position(0), reference.next(same, JointMove({move})).value());
      }
    }
  }
}

}  // namespace
}  // namespace orchard::ground::ground_program_test
