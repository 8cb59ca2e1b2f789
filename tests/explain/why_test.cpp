// Explanations are checked step by step by a judge of their own: every step is an instance of its
// clause, every condition stands as it is said to, every leaf is in the position.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <map>
#include <set>

#include "game/core.hpp"
#include "orchard/explain.hpp"
#include "orchard/line.hpp"
#include "orchard/playouts.hpp"
#include "support/files.hpp"

namespace orchard::why_test {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using Kind = Reason::Kind;

// The text of a rule's literal with the values of its variables in their place, word by word.
std::string with_values(const std::string& text, const Reason& by) {
  std::string result;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t end = std::min(text.find_first_of(" ()", at), text.size());
    const std::string word = text.substr(at, end - at);
    std::string value = word;
    for (const auto& [name, term] : by.bindings) {
      if (name == word) value = term.to_string();
    }
    result += value;
    if (end < text.size()) result += text[end];
    at = end + 1;
  }
  return result;
}

class Judge {
 public:
  Judge(const Game& game, const Position& position, const std::optional<JointMove>& joint)
      : game_(game),
        description_(GameAccess::core(game)->program().description()),
        evaluator_(GameAccess::core(game)->shared_program()),
        position_(position) {
    evaluator_.set_position(GameAccess::state(position).fluents());
    if (joint) {
      std::vector<TermId> moves;
      for (const Move& move : *joint) moves.push_back(GameAccess::id(move));
      evaluator_.set_joint_move(moves);
    }
  }

  // Whether an atom holds, asked of the evaluator; a variable stands for anything.
  bool holds(const Term& atom) {
    if (atom.name() == "distinct") return atom.arguments()[0] != atom.arguments()[1];
    if (atom.name() == "true") return position_.holds(atom.arguments()[0]);
    const auto relation = description_.find(atom.name(), static_cast<std::uint32_t>(atom.arity()));
    if (!relation) return false;
    std::set<std::string>& texts = instances_[atom.name() + std::to_string(atom.arity())];
    if (texts.empty()) {
      const logic::Table& table = evaluator_.instances(*relation);
      for (std::uint32_t row = 0; row < table.rows(); ++row) {
        std::vector<Term> arguments;
        for (std::uint32_t a = 0; a < table.arity(); ++a) {
          arguments.push_back(description_.terms().term(table.row(row)[a]));
        }
        texts.insert(arguments.empty() ? atom.name()
                                       : Term::function(atom.name(), arguments).to_string());
      }
      texts.insert("");  // asked for
    }
    return texts.contains(atom.to_string());
  }

  // The conditions of a clause in the words of the rules, with values.
  std::vector<std::string> conditions_of(const Reason& reason) {
    const rules::Clause& clause = description_.clauses()[*reason.clause];
    std::vector<std::string> result;
    for (const rules::Literal& literal : clause.body) {
      std::string text = description_.text(literal.atom, clause.rule);
      const bool negated = literal.kind == rules::Literal::Kind::negative;
      text = with_values(text, reason);
      result.push_back(negated ? "(not " + text + ")" : text);
    }
    return result;
  }

  void check(const Explanation& why, std::size_t first = 0) {
    for (std::size_t i = first; i < why.reasons.size(); ++i) {
      SCOPED_TRACE(why.reasons[i].literal());
      check(why, why.reasons[i]);
    }
  }

 private:
  void check(const Explanation& why, const Reason& reason) {
    if (reason.atom.is_ground() && reason.kind != Kind::attempt) {
      EXPECT_EQ(holds(reason.atom), reason.holds != reason.negated);
      ++checked_;
    }
    if (reason.clause) {
      const rules::Clause& clause = description_.clauses()[*reason.clause];
      const std::string head = with_values(description_.text(clause.head, clause.rule), reason);
      if (reason.kind == Kind::rule || reason.kind == Kind::attempt) {
        EXPECT_EQ(head, reason.atom.to_string());
        std::vector<std::string> said;
        for (const std::size_t condition : reason.conditions) {
          said.push_back(why.reasons[condition].literal());
        }
        if (!has_comparison(clause)) {
          EXPECT_EQ(said, conditions_of(reason));
        }
        EXPECT_EQ(said.size(), clause.body.size());
      }
    }
    if (reason.kind == Kind::rule && !reason.conditions.empty()) {
      for (const std::size_t condition : reason.conditions) {
        EXPECT_TRUE(why.reasons[condition].holds);
        EXPECT_FALSE(leads_to(why, condition, reason.literal())) << "a proof in a circle";
      }
    }
    if (reason.kind == Kind::attempt) {
      // If what is missing held, the clause would give the atom: all the rest holds.
      std::size_t missing = 0;
      for (const std::size_t condition : reason.conditions) {
        const Reason& of = why.reasons[condition];
        missing += of.holds ? 0 : 1;
        if (of.atom.is_ground()) {
          EXPECT_EQ(holds(of.atom), of.holds != of.negated);
        }
      }
      EXPECT_GT(missing, 0u);
    }
    if (reason.kind == Kind::fluent && reason.atom.is_ground()) {
      EXPECT_EQ(position_.holds(reason.atom.arguments()[0]), reason.holds != reason.negated);
    }
  }
  static bool leads_to(const Explanation& why, std::size_t from, const std::string& literal) {
    std::vector<std::size_t> pending{from};
    while (!pending.empty()) {
      const Reason& reason = why.reasons[pending.back()];
      pending.pop_back();
      if (reason.literal() == literal) return true;
      pending.insert(pending.end(), reason.conditions.begin(), reason.conditions.end());
    }
    return false;
  }
  static bool has_comparison(const rules::Clause& clause) {
    return std::ranges::any_of(clause.body, &rules::Literal::is_comparison);
  }

  const Game& game_;
  const rules::Description& description_;
  logic::Evaluator evaluator_;
  const Position& position_;
  std::map<std::string, std::set<std::string>> instances_;
  std::size_t checked_ = 0;
};

Line random_play(const Game& game, std::uint64_t seed, std::uint64_t plies) {
  WalkOptions options;
  options.seed = seed;
  options.plies = plies;
  Line line;
  (void)random_walk(game, options, [&](const WalkStep& step) {
    line.positions.push_back(step.position);
    if (step.joint) line.joints.push_back(*step.joint);
    return true;
  });
  return line;
}

Explanation ask(const Game& game, const Circumstances& here, const std::string& question) {
  const auto parsed = Question::parse(game, question);
  if (!parsed) throw std::runtime_error(parsed.diagnostics().render());
  return why(game, here, *parsed).value();
}

TEST(Why, EveryStepOfSampledExplanationsIsAnInstanceOfItsClause) {
  for (const std::string& path : testing::demo_games()) {
    SCOPED_TRACE(path);
    const Game game = Game::load(path).value();
    const Line line = random_play(game, 3, 24);
    std::set<std::string> other_moves;  // legal somewhere on the line
    for (std::size_t ply = 0; ply < line.positions.size(); ply += 7) {
      const Position& position = line.positions[ply];
      Judge judge(game, position, std::nullopt);
      const Circumstances here{position};
      std::vector<std::string> questions{"terminal"};
      for (const Role& role : game.roles()) {
        if (!role.is_chance()) questions.push_back("goal " + role.name() + " 100");
        std::size_t taken = 0;
        std::set<std::string> legal;
        for (const Move& move : game.legal(position, role)) {
          legal.insert(move.to_string());
          if (taken++ < 2) questions.push_back("legal " + role.name() + " " + move.to_string());
        }
        taken = 0;
        for (const std::string& move : other_moves) {
          if (legal.contains(move)) continue;
          if (taken++ < 2) questions.push_back("legal " + role.name() + " " + move);
        }
        other_moves.insert(legal.begin(), legal.end());
      }
      for (const std::string& question : questions) {
        SCOPED_TRACE(question);
        const Explanation answer = ask(game, here, question);
        ASSERT_FALSE(answer.reasons.empty());
        judge.check(answer);
      }
    }
  }
}

TEST(Why, FluentsAreTracedBackToTheMovesThatMadeThem) {
  for (const std::string& path : testing::demo_games()) {
    SCOPED_TRACE(path);
    const Game game = Game::load(path).value();
    const Line line = random_play(game, 5, 9);
    Circumstances here{line.last()};
    here.earlier.assign(line.positions.begin(), line.positions.end() - 1);
    here.joints.assign(line.joints.begin(),
                       line.joints.begin() + static_cast<std::ptrdiff_t>(here.earlier.size()));
    std::size_t asked = 0;
    for (const Term& fluent : line.last().fluents()) {
      if (++asked % 5 != 1) continue;
      SCOPED_TRACE(fluent.to_string());
      const Explanation answer = ask(game, here, "true " + fluent.to_string());
      const Reason& root = answer.reasons.front();
      ASSERT_EQ(root.kind, Kind::since);
      EXPECT_TRUE(answer.holds);
      for (std::uint64_t ply = root.ply; ply < here.earlier.size(); ++ply) {
        EXPECT_TRUE(here.earlier[ply].holds(fluent));
      }
      if (root.ply == 0) {
        EXPECT_TRUE(game.initial().holds(fluent));
        continue;
      }
      const Position& before = here.earlier[root.ply - 1];
      EXPECT_FALSE(before.holds(fluent));
      EXPECT_EQ(root.joint, here.joints[root.ply - 1].to_string());
      Judge(game, before, here.joints[root.ply - 1]).check(answer, 1);
    }
  }
}

class Espalier : public ::testing::Test {
 protected:
  Game game = Game::load(testing::game_path("espalier_3x3")).value();
  Position after(const std::string& plies) {
    return play_line(game, game.initial(), plies).value().last();
  }
};

TEST_F(Espalier, SaysWhatIsMissingForAMove) {
  const Position position = after("(tie 1 1) (tie 1 2) (tie 2 1) (tie 1 3)");
  EXPECT_EQ(ask(game, {position}, "legal east (tie 1 1)").in_one_line(),
            "it would need (true (square 1 1 bare)) (espalier.gdl:71)");
  EXPECT_EQ(ask(game, {position}, "legal west (tie 3 3)").in_one_line(),
            "it would need (true (turn west)) and 1 more (espalier.gdl:70)");
  EXPECT_EQ(ask(game, {position}, "legal east (graft 1 1)").in_one_line(),
            "no rule could ever give (legal east (graft 1 1))");
  EXPECT_THAT(ask(game, {position}, "legal east (tie 2 2)").in_one_line(),
              HasSubstr("by espalier.gdl:69"));
}

TEST_F(Espalier, DecidingFluentsAreTheCorners) {
  const Position won =
      after("(tie 1 1) (tie 1 3) (tie 1 2) (tie 2 3) (tie 2 1) (tie 3 3) (tie 2 2)");
  ASSERT_TRUE(game.terminal(won));
  std::vector<std::string> texts;
  for (const Term& fluent : deciding_fluents(game, won)) texts.push_back(fluent.to_string());
  EXPECT_THAT(texts, ElementsAre("(square 1 1 east)", "(square 1 2 east)", "(square 2 1 east)",
                                 "(square 2 2 east)"));
  EXPECT_THAT(deciding_fluents(game, game.initial()), IsEmpty());
}

TEST_F(Espalier, TextIsATreeWithPlaces) {
  const Position position = after("(tie 1 1)");
  EXPECT_EQ(ask(game, {position}, "within_reach 2 1").text(),
            "✓ (within_reach 2 1)   espalier.gdl:81   ?row = 2, ?column = 1, ?other_row = 1, "
            "?other_column = 1\n"
            "├─ ✓ (touches 2 1 1 1)   always so\n"
            "└─ ✓ (branch 1 1)   espalier.gdl:85   ?row = 1, ?column = 1, ?gardener = east\n"
            "   ├─ ✓ (true (square 1 1 east))   in the position\n"
            "   └─ ✓ (role east)   espalier.gdl:18   stated\n");
  const std::string ascii = ask(game, {position}, "within_reach 2 1").text(false);
  EXPECT_TRUE(std::ranges::all_of(ascii, [](char c) { return c > 0; })) << ascii;
}

TEST_F(Espalier, DotNamesEveryStep) {
  const Explanation answer = ask(game, {game.initial()}, "terminal");
  const std::string dot = answer.dot();
  for (std::size_t i = 0; i < answer.reasons.size(); ++i) {
    EXPECT_THAT(dot, HasSubstr("n" + std::to_string(i) + " [label="));
  }
}

TEST(Why, TheShortestProofOfARecursiveRelationIsGiven) {
  const Game game = Game::from_text(R"(
    (role r)
    (step a b) (step b c) (step c a) (step a c) (step c d)
    (init here) (<= (legal r go) (true here))
    (<= (next here) (true here))
    (<= (joined ?x ?y) (step ?x ?y) (true here))
    (<= (joined ?x ?z) (joined ?x ?y) (joined ?y ?z))
    (<= terminal (joined a d)) (goal r 0))")
                        .value();
  const Explanation answer = ask(game, {game.initial()}, "joined a d");
  Judge(game, game.initial(), std::nullopt).check(answer);
  std::size_t steps = 0;
  for (const Reason& reason : answer.reasons) {
    steps += reason.atom.name() == "joined" && reason.kind == Kind::rule ? 1 : 0;
  }
  EXPECT_EQ(steps, 3u);  // a d by a c and c d, not round by b
}

TEST(Why, QuestionsThatCannotBeAskedAreRefusedWithARemedy) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const auto refusal = [&](const std::string& text) {
    return Question::parse(game, text).diagnostics().render();
  };
  EXPECT_THAT(refusal("win east"), HasSubstr("did you mean `wins`?"));
  EXPECT_THAT(refusal("wins east west"), HasSubstr("`wins` takes 1 argument, not 2"));
  EXPECT_THAT(refusal("turn east"), HasSubstr("ask (true (turn east))"));
  EXPECT_THAT(refusal("wins (east"), HasSubstr("is not a question"));
  EXPECT_THAT(refusal(""), HasSubstr("is not a question"));
  const auto needs = why(game, {game.initial()}, *Question::parse(game, "next (turn east)"));
  EXPECT_THAT(needs.diagnostics().render(), HasSubstr("needs-a-move"));
}

TEST(Why, LinesAreRefusedAtThePlyThatCannotBePlayed) {
  const Game game = Game::load(testing::game_path("espalier_3x3")).value();
  const auto refusal = [&](const std::string& text) {
    return play_line(game, game.initial(), text).diagnostics().render();
  };
  EXPECT_THAT(refusal("(tie 1 1) (tie 1 1)"), HasSubstr("ply 2: west cannot play (tie 1 1) here"));
  EXPECT_THAT(refusal("(north (tie 1 1))"), HasSubstr("ply 1"));
  EXPECT_THAT(refusal("(joint (north (tie 1 1)))"), HasSubstr("north is not a role"));
  EXPECT_THAT(refusal("(tie 1 1"), HasSubstr("unclosed-parenthesis"));
}

// Asked without Question::parse, about something that an unfinished description does not have.
TEST(Why, ARelationThatTheRulesDoNotHaveIsRefused) {
  const Game game = Game::from_text("(role ann) (init day) (<= terminal (true day))").value();
  for (const char* atom : {"(goal ann 100)", "(legal ann ?move)", "nothing"}) {
    const auto asked = why(game, {game.initial()}, {Term::parse(atom).value(), false});
    EXPECT_THAT(asked.diagnostics().render(), HasSubstr("the rules have no relation")) << atom;
  }
}

// A count is one line, with what it counted below; the sum is that of the position.
TEST(WhyCounts, InOneLineWhatHolds) {
  const Game game =
      Game::from_text(
          "(role ann) (init (lit 2)) (init (lit 5)) (legal ann wait) (next dark) (goal ann 50)\n"
          "(<= terminal (true dark))\n"
          "(#count ?n (lights ?n) (role ann) (#for ?k 1 6 (true (lit ?k))))\n"
          "(<= (bright) (lights ?n) (distinct ?n 0))")
          .value();
  const auto text_of = [&](const char* question) {
    return why(game, {game.initial()}, Question::parse(game, question).value()).value().text();
  };
  const std::string text = text_of("lights 2");
  EXPECT_THAT(text, HasSubstr("(lights 2)"));
  EXPECT_THAT(text, HasSubstr("2 of 6 hold\n"));
  EXPECT_THAT(text, HasSubstr("├─ ✓ (true (lit 2))"));
  EXPECT_THAT(text, HasSubstr("└─ ✓ (true (lit 5))"));
  EXPECT_THAT(text, ::testing::Not(HasSubstr("so_far")));
  EXPECT_THAT(text_of("bright"), HasSubstr("2 of 6 hold"));
  // Another number: how many hold, not the steps that miss it.
  const std::string other = text_of("lights 4");
  EXPECT_THAT(other, HasSubstr("✗ (lights 4)   does not hold\n└─ ✓ (lights 2)"));
  EXPECT_THAT(other, HasSubstr("2 of 6 hold\n"));
  EXPECT_THAT(other, ::testing::Not(HasSubstr("so_far")));
}

}  // namespace
}  // namespace orchard::why_test
