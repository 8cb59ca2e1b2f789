#include "rules/findings.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>

#include "orchard/random.hpp"
#include "rules/domains.hpp"
#include "support/files.hpp"

namespace orchard::rules {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;
using ::testing::IsEmpty;

// A finished description; what is found in it is nothing.
const char* const frame =
    "(role east) (role west) (row 1) (row 2) (init (bed 1 bare)) (init (bed 2 bare)) (init (turn "
    "east))\n"
    "(<= (legal ?who (sow ?row)) (true (turn ?who)) (true (bed ?row bare)))\n"
    "(<= (legal ?who wait) (role ?who) (not (true (turn ?who))))\n"
    "(<= (next (bed ?row sown)) (does ?who (sow ?row)))\n"
    "(<= (next (bed ?row ?what)) (true (bed ?row ?what)) (not (sown_now ?row)))\n"
    "(<= (sown_now ?row) (does ?who (sow ?row)))\n"
    "(<= (next (turn west)) (true (turn east))) (<= (next (turn east)) (true (turn west)))\n"
    "(<= any_bare (true (bed ?row bare))) (<= terminal (not any_bare))\n"
    "(<= (goal ?who 50) (role ?who))\n";

Diagnostics findings_in(const std::string& rules) {
  Diagnostics diagnostics;
  Description::build(syntax::Source("pea.gdl", rules), {}, diagnostics);
  return diagnostics;
}

std::string found(const std::string& added) {
  return findings_in(frame + added).render();
}

TEST(Findings, FrameOfTheTestsHasNone) {
  EXPECT_EQ(found(""), "");
}

TEST(Findings, NameThatNeverStandsThere) {
  EXPECT_EQ(found("(<= (ripe ?row) (true (bed ?row sonw)))"),
            "pea.gdl:10:33: suspicious: `sonw` never stands here, so this condition never holds "
            "[impossible-condition]\n"
            "   (<= (ripe ?row) (true (bed ?row sonw)))\n"
            "                                   ^~~~\n"
            "   remedy: did you mean `sown`?\n");
  EXPECT_THAT(found("(<= (ripe ?row) (true (bedd ?row sown)))"), HasSubstr("did you mean `bed`?"));
  EXPECT_THAT(found("(<= (p ?row) (does ?who (sow ?row soon)))"),
              HasSubstr("`sow` never stands here"));
  EXPECT_THAT(found("(<= (p) (row 3))"), HasSubstr("what can stand here: 1, 2"));
}

TEST(Findings, RootsOnlyNotWhatFollows) {
  const std::string text =
      found("(<= (p ?row) (true (bed ?row sonw)))\n(<= (q ?row) (p ?row) (row ?row))");
  EXPECT_THAT(text, HasSubstr("pea.gdl:10:"));
  EXPECT_THAT(text, ::testing::Not(HasSubstr("pea.gdl:11:")));
}

TEST(Findings, PlacesThatShareNoValue) {
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (role ?x))"),
              HasSubstr("nothing can be ?x both here and before [disjoint-places]"));
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (role ?x))"), HasSubstr("here: east, west; before: 1, 2"));
}

TEST(Findings, UndefinedRelationWithWhatWasMeant) {
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (not (sown_nwo ?x)))"),
              HasSubstr("did you mean `sown_now`?"));
  EXPECT_THAT(found("(<= (p ?x) (row ?x) (treu (bed ?x bare)))"),
              HasSubstr("did you mean `true`?"));
}

TEST(Findings, FluentThatNobodyReads) {
  EXPECT_THAT(found("(<= (next (bell ?row)) (does ?who (sow ?row)))"),
              HasSubstr("no condition ever looks at (bell …) [unread-fluent]"));
  EXPECT_EQ(found("(<= (next (bell ?row)) (does ?who (sow ?row))) (<= (p ?f) (true ?f))"), "");
}

TEST(Findings, RolesLeftOut) {
  const std::string text = findings_in(
                               "(role east) (role west) (role random) (init (a 1)) (legal east go)"
                               "(legal random go) (<= (next (a 1)) (true (a 1)) (does east go))"
                               "(<= terminal (not (true (a 1)))) (goal west 1)")
                               .render();
  EXPECT_THAT(text, HasSubstr("no move is ever legal for west [role-without-moves]"));
  EXPECT_THAT(text, HasSubstr("no value is ever given to east [role-without-goal]"));
  EXPECT_THAT(text, ::testing::Not(HasSubstr("to random")));  // chance needs no goal
}

TEST(Findings, SimilarVariables) {
  EXPECT_THAT(
      found("(<= (p ?column) (row ?colum) (row ?column))"),
      HasSubstr("pea.gdl:10:22: suspicious: ?colum is used once in this rule, beside ?column"));
  EXPECT_EQ(found("(<= (p ?row1) (row ?row1) (row ?row2))"), "");  // numbered on purpose
}

TEST(Findings, RulesThatStandTwice) {
  EXPECT_THAT(found("(<= (sown_now ?r) (does ?w (sow ?r)))"),
              HasSubstr("this stands in line 6 already [duplicate-rule]"));
}

TEST(Findings, DeclaredAgainstMade) {
  const std::string declared =
      "(<= (base (bed ?r bare)) (row ?r)) (<= (base (bed ?r sown)) (row ?r))";
  EXPECT_THAT(found(declared), HasSubstr("(turn …) is not declared by `base` [undeclared-fluent]"));
  EXPECT_THAT(
      found("(<= (input ?w (sow ?r)) (role ?w) (row ?r)) (input east wiat) (input west wait)"),
      HasSubstr("wiat is declared, but no rule makes it [unmade-move]"));
}

TEST(Findings, CommentsSilenceByCode) {
  const std::string slip = "(<= (p ?x) (row ?x) (role ?x))\n";
  EXPECT_EQ(found(slip + "; orchard: allow disjoint-places, unread-fluent"), "");
  EXPECT_NE(found(slip + "; orchard: allow unread-fluent"), "");
  EXPECT_THAT(allowed_codes("; orchard: allow a b\n(x) ; orchard: allow c,d\norchard: allow e\n"),
              ElementsAre("a", "b", "c", "d"));
}

std::vector<std::filesystem::path> demo_games() {
  std::vector<std::filesystem::path> games;
  for (const auto& entry : std::filesystem::directory_iterator(testing::source_path("games"))) {
    if (entry.path().extension() == ".gdl") games.push_back(entry.path());
  }
  std::ranges::sort(games);
  return games;
}

TEST(Findings, DemoGamesHaveNone) {
  for (const auto& game : demo_games()) {
    Diagnostics diagnostics;
    Description::build(syntax::Source::from_file(game).value(), {}, diagnostics);
    EXPECT_EQ(diagnostics.render(), "");
  }
}

// A letter lost from a name or variable of a demo game: how many of these slips are found without
// playing. The share is printed; it may grow, not fall.
TEST(Findings, MostLostLettersAreFound) {
  int slips = 0;
  int noticed = 0;
  Random random(5);
  for (const char* name : {"espalier", "silo", "channel"}) {
    const std::string rules = testing::read_file(testing::game_path(name));
    bool comment = false;
    for (std::size_t at = 0; at + 2 < rules.size(); ++at) {
      comment = (comment || rules[at] == ';') && rules[at] != '\n';
      const bool inside = std::isalpha(static_cast<unsigned char>(rules[at])) != 0 &&
                          std::isalpha(static_cast<unsigned char>(rules[at + 1])) != 0;
      if (comment || !inside || random.below(20) > 0) continue;
      std::string slip = rules;
      slip.erase(at, 1);
      ++slips;
      if (!findings_in(slip).empty()) ++noticed;
    }
  }
  std::printf("lost letters found: %d of %d (%.0f %%)\n", noticed, slips, 100.0 * noticed / slips);
  EXPECT_GT(slips, 100);
  EXPECT_GT(noticed * 100, slips * 60);
}

std::vector<std::string> domain_of(const std::string& rules, Places::Owner owner, const char* name,
                                   std::uint32_t arity, std::uint32_t argument) {
  Diagnostics diagnostics;
  const auto description = Description::build(syntax::Source("", rules), {}, diagnostics);
  EXPECT_NE(description, nullptr) << diagnostics.render();
  const Domains domains(*description);
  const auto place =
      domains.places().find(owner, *description->terms().find_symbol(name), arity, argument);
  std::vector<std::string> names;
  for (const Domains::Name& value : domains.domain(*place)) {
    names.push_back(description->terms().name(value.symbol));
  }
  std::ranges::sort(names);
  return names;
}

TEST(Domains, FollowRulesAndMoves) {
  EXPECT_THAT(domain_of(frame, Places::Owner::fluent, "bed", 2, 1), ElementsAre("bare", "sown"));
  EXPECT_THAT(domain_of(frame, Places::Owner::move, "sow", 1, 0), ElementsAre("1", "2"));
  EXPECT_THAT(domain_of(frame, Places::Owner::relation, "sown_now", 1, 0), ElementsAre("1", "2"));
  EXPECT_THAT(domain_of("(role r) (d a) (d b) (e b) (e c) (<= (p ?x) (d ?x) (e ?x))",
                        Places::Owner::relation, "p", 1, 0),
              ElementsAre("b"));
  EXPECT_THAT(domain_of("(role r) (d a) (e b) (<= (p ?x) (d ?x) (e ?x))", Places::Owner::relation,
                        "p", 1, 0),
              IsEmpty());
}

}  // namespace
}  // namespace orchard::rules
