// Names, insight, completion and changes of texts, on every game of the project and on texts that
// do not read.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fstream>
#include "editing/completion.hpp"
#include "editing/document.hpp"
#include "editing/edits.hpp"
#include "editing/insight.hpp"

#include "orchard/cases.hpp"
#include "orchard/random.hpp"
#include "rules/keywords.hpp"
#include "support/files.hpp"
#include "syntax/directives.hpp"

namespace orchard::editing {
namespace {

using ::testing::Contains;
using ::testing::ElementsAre;
using ::testing::Field;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using ::testing::Not;

std::vector<std::string> all_games() {
  std::vector<std::string> games = testing::all_demo_games();
  const auto corpus = testing::corpus_games();
  games.insert(games.end(), corpus.begin(), corpus.end());
  return games;
}

Names names_of(const std::string& text, const std::string& name = "own.gdl",
               const Names* known = nullptr) {
  return Names(syntax::Source(name, text), known);
}

const Name& name_at(const Names& names, const std::string& before, const std::string& name) {
  const std::size_t at = names.source().text().find(before + name);
  EXPECT_NE(at, std::string::npos) << before << name;
  const Name* const found = names.at(static_cast<std::uint32_t>(at + before.size()));
  EXPECT_NE(found, nullptr);
  return *found;
}

const char* const baskets =
    "; Who picks.\n(role east) (role west)\n"
    "(#let baskets 2)\n\n"
    "; Whose turn comes after whose.\n(after east west) (after west east)\n"
    "(#for ?b 1 baskets (basket ?b))\n"
    "(init (turn east))\n"
    "(<= (legal ?who (pick ?b)) (true (turn ?who)) (basket ?b))\n"
    "(<= (legal ?who wait) (role ?who) (not (true (turn ?who))))\n"
    "(<= (next (turn ?next)) (true (turn ?who)) (after ?who ?next))\n"
    "(<= (next (picked (pick ?b))) (does ?_who (pick ?b)))\n"
    "(<= terminal (true (picked ?any)) (or (true (turn east)) full))\n"
    "(<= full (true (picked (pick 2))))\n"
    "(<= (goal ?who 50) (role ?who))\n";

TEST(Names, AreWhatTheyAreWhereTheyStand) {
  const Names names = names_of(baskets);
  EXPECT_EQ(name_at(names, "(", "after").sort, Sort::relation);
  EXPECT_EQ(name_at(names, "(init (", "turn").sort, Sort::fluent);
  EXPECT_EQ(name_at(names, "(legal ?who (", "pick").sort, Sort::move);
  EXPECT_EQ(name_at(names, "(next (picked (", "pick").sort, Sort::function);
  EXPECT_EQ(name_at(names, "(role ", "east").sort, Sort::constant);
  EXPECT_EQ(name_at(names, "(true (turn east)) ", "full").sort, Sort::relation);
  EXPECT_EQ(name_at(names, "(", "#let").sort, Sort::directive);
  EXPECT_EQ(name_at(names, "(", "or").sort, Sort::keyword);
  EXPECT_TRUE(name_at(names, "(<= ", "full").makes);
  EXPECT_FALSE(name_at(names, "(true (turn east)) ", "full").makes);
  EXPECT_TRUE(name_at(names, "(next (", "turn").makes);
  EXPECT_FALSE(name_at(names, "(true (", "turn").makes);
  EXPECT_EQ(names.comment_above(name_at(names, "(", "after").form),
            "Whose turn comes after whose.");
}

TEST(Names, AFunctionIsTheSameInMovesAndFluents) {
  const Names names = names_of(baskets);
  EXPECT_TRUE(same_thing(name_at(names, "(legal ?who (", "pick"),
                         name_at(names, "(next (picked (", "pick")));
  EXPECT_TRUE(same_thing(name_at(names, "(#let ", "baskets"), name_at(names, "?b 1 ", "baskets")));
  // A variable belongs to its rule.
  EXPECT_FALSE(same_thing(name_at(names, "(legal ", "?who"), name_at(names, "(goal ", "?who")));
}

TEST(Names, OfCasesAndClaimsAreThoseOfTheRules) {
  const Names rules = names_of(baskets);
  const Names cases = names_of(
      "(case \"turn\" (position (turn east)) (moves (east (pick 1))) (expect (legal west wait) "
      "full))",
      "own.cases", &rules);
  EXPECT_EQ(name_at(cases, "(", "case").sort, Sort::word);
  EXPECT_EQ(name_at(cases, "(position (", "turn").sort, Sort::fluent);
  EXPECT_EQ(name_at(cases, "(moves (", "east").sort, Sort::constant);
  EXPECT_EQ(name_at(cases, "(east (", "pick").sort, Sort::move);
  EXPECT_EQ(name_at(cases, "wait) ", "full").sort, Sort::relation);
  const Names claims =
      names_of("(claim \"x\" (can-force east (exists ?b basket (true (picked (pick ?b))))))",
               "own.claims", &rules);
  EXPECT_EQ(name_at(claims, "can-force ", "east").sort, Sort::constant);
  EXPECT_EQ(name_at(claims, "?b ", "basket").sort, Sort::relation);
  EXPECT_EQ(name_at(claims, "(true (", "picked").sort, Sort::fluent);
}

TEST(Names, OfWhatDoesNotReadAreThoseThatCouldBeRead) {
  const Names names = names_of(std::string(baskets) + "(<= (legal ?who (pic");
  EXPECT_FALSE(names.faults().empty());
  EXPECT_EQ(name_at(names, "(", "after").sort, Sort::relation);
}

TEST(Document, CountsAsEditorsDo) {
  const Document document("; ä€🍎 x\nrow\r\n(b)");
  const auto at = static_cast<std::uint32_t>(document.text().find('x'));
  EXPECT_EQ(document.spot(at, Units::utf8), (Spot{0, at}));
  EXPECT_EQ(document.spot(at, Units::utf16), (Spot{0, 7}));
  EXPECT_EQ(document.spot(at, Units::utf32), (Spot{0, 6}));
  EXPECT_EQ(document.offset({7, 0}, Units::utf16), document.text().size());
  EXPECT_EQ(document.text()[document.offset({0, 99}, Units::utf16)], '\n');
  for (const Units units : {Units::utf8, Units::utf16, Units::utf32}) {
    for (std::uint32_t byte = 0; byte < document.text().size(); ++byte) {
      const bool begins = (static_cast<unsigned char>(document.text()[byte]) & 0xC0) != 0x80;
      if (begins) {
        EXPECT_EQ(document.offset(document.spot(byte, units), units), byte);
      }
    }
  }
}

TEST(Insight, TellsWhatANameIsFor) {
  Shelf shelf("own.gdl", {});
  const auto reading = shelf.read({baskets, "", {}});
  ASSERT_TRUE(reading->game) << reading->findings.render();
  const Names names = names_of(baskets);
  const auto told = [&](const std::string& before, const std::string& name) {
    const Insight insight = insight_of(names, name_at(names, before, name), names, reading.get());
    std::string text = insight.shape;
    for (const std::string& line : insight.lines) text += "\n" + line;
    return text;
  };
  EXPECT_EQ(told("(", "after"),
            "(after east west)\nWhose turn comes after whose.\nArgument 1: east, west\n"
            "Argument 2: east, west\nAt the start true: (after east west), (after west east)\n"
            "Concluded in 2 forms, asked for in 1 place.");
  EXPECT_THAT(told("(legal ?who (", "pick"),
              HasSubstr("At the start legal: east (pick 1), east (pick 2)"));
  EXPECT_THAT(told("(next (", "turn"), HasSubstr("At the start true: (turn east)"));
  EXPECT_THAT(told("(next (", "picked"), HasSubstr("At the start none is true."));
  EXPECT_THAT(told("(<= ", "full"), HasSubstr("At the start none is true."));
  EXPECT_THAT(told("(true (turn ?who)) (after ", "?who"), HasSubstr("Can be: east, west"));
  EXPECT_THAT(told("(#let ", "baskets"), HasSubstr("A size: 2"));
  EXPECT_THAT(told("(role ", "east"), HasSubstr("A role."));
}

TEST(Insight, EveryWordHasAMeaning) {
  for (const auto& facts : rules::keyword_table())
    EXPECT_NE(meaning_of(facts.name), "") << facts.name;
  for (const auto& facts : syntax::directives())
    EXPECT_NE(meaning_of(facts.name), "") << facts.name;
  for (const Paper paper : {Paper::claims, Paper::cases}) {
    for (const std::string_view word : words_of(paper)) {
      if (word == "drawn" || word == "joint") continue;  // parts of others
      EXPECT_NE(meaning_of(word), "") << word;
      EXPECT_NE(shape_of(word), "") << word;
    }
  }
}

// Whatever stands in a description that reads is offered where it stands, when half of it is typed.
TEST(Completion, OffersWhatStandsThere) {
  std::size_t asked = 0;
  std::vector<std::string> missed;
  Random random(7);
  for (const std::string& path : all_games()) {
    if (path.ends_with(".gdli")) continue;
    const std::string text = testing::read_file(path);
    Shelf shelf(path, {});
    const auto reading = shelf.read({text, "", {}});
    const Names names = names_of(text, path);
    for (const Name& name : names.all()) {
      // A name that stands nowhere else is new: nobody can know it.
      const auto uses = std::ranges::count_if(
          names.all(), [&](const Name& one) { return same_thing(one, name); });
      const bool is_number = name.name.find_first_not_of("0123456789") == std::string::npos;
      if (name.sort == Sort::text || uses < 2 || is_number || name.makes || random.below(20) != 0)
        continue;
      ++asked;
      std::string typed = text;
      const std::uint32_t half = std::max((name.end - name.begin) / 2, 1u);
      typed.erase(name.begin + half, name.end - name.begin - half);
      const auto found =
          completions_at(typed, name.begin + half, Paper::rules, &names, reading.get());
      EXPECT_EQ(found.begin, name.begin);
      const bool has = std::ranges::any_of(
          found.items, [&](const Completion& one) { return one.name == name.name; });
      if (has) continue;
      const std::size_t line = text.rfind('\n', name.begin) + 1;
      missed.push_back(path + ": " + text.substr(line, name.end - line));
    }
  }
  EXPECT_GT(asked, 500u);
  // What stands in a loop that is empty at the usual size is known to no domain.
  EXPECT_LE(missed.size(), asked / 500) << ::testing::PrintToString(missed);
}

TEST(Completion, KnowsWhereItStands) {
  const std::string rules = baskets;
  Shelf shelf("own.gdl", {});
  const auto reading = shelf.read({rules, "", {}});
  const Names names = names_of(rules);
  const auto offered = [&](const std::string& typed, Paper paper = Paper::rules) {
    const std::string text = (paper == Paper::rules ? rules : "") + typed;
    std::vector<std::string> found;
    for (const Completion& one :
         completions_at(text, static_cast<std::uint32_t>(text.size()), paper, &names, reading.get())
             .items) {
      found.push_back(one.insert);
    }
    return found;
  };
  EXPECT_THAT(offered("(<= (next ("), ElementsAre("picked", "turn"));
  EXPECT_THAT(offered("(<= (legal ?who ("), ElementsAre("pick"));
  EXPECT_THAT(offered("(<= (does "), Not(Contains("turn")));
  EXPECT_THAT(offered("(<= full (does "), ElementsAre("east", "west", "baskets"));
  EXPECT_THAT(offered("(<= full (after ea"), ElementsAre("east", "west", "baskets"));
  EXPECT_THAT(offered("(<= full (true (turn ?x)) (after ?"), ElementsAre("?x"));
  EXPECT_THAT(offered("(<= full ("), Contains("after"));
  EXPECT_THAT(offered("(<= full "), Contains("(after "));
  EXPECT_THAT(offered("(#"), Contains("#let"));
  EXPECT_THAT(offered("; say ("), IsEmpty());
  EXPECT_THAT(offered("(case \"a (", Paper::cases), IsEmpty());
  EXPECT_THAT(offered("(case \"a\" (", Paper::cases), Contains("expect"));
  EXPECT_THAT(offered("(case \"a\" (position (", Paper::cases), ElementsAre("picked", "turn"));
  EXPECT_THAT(offered("(claim \"a\" (never (", Paper::claims), Contains("after"));
}

std::string lowered(std::string text) {
  for (char& c : text) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return text;
}

// Renamed to something new and back, every text is as it was; and in between it is the same game.
TEST(Renaming, GoesThroughAllTextsAndBack) {
  Random random(11);
  std::size_t renamings = 0;
  for (const std::string& path : all_games()) {
    const std::string stem = path.substr(0, path.rfind('.'));
    const std::string rules = testing::read_file(path);
    const Names names = names_of(rules, path);
    std::vector<const Name*> can_be;
    for (const Name& name : names.all()) {
      if (name.sort != Sort::variable && !fault_in_renaming(names, name, "so_new_a_name"))
        can_be.push_back(&name);
    }
    ASSERT_FALSE(can_be.empty()) << path;
    for (int i = 0; i < 2; ++i) {
      const Name& name = *can_be[random.below(can_be.size())];
      ++renamings;
      std::map<std::string, std::string> texts;
      for (const char* ending : {".cases", ".claims", ".draw"}) {
        std::ifstream file(stem + ending);
        if (file) texts[stem + ending] = testing::read_file(stem + ending);
      }
      const std::string new_rules = edited(rules, renamed(names, name, "so_new_a_name"));
      const Names new_names = names_of(new_rules, path);
      const auto new_name = std::ranges::find(new_names.all(), "so_new_a_name", &Name::name);
      ASSERT_NE(new_name, new_names.all().end()) << path << " " << name.name;
      EXPECT_EQ(lowered(edited(new_rules, renamed(new_names, *new_name, name.name))),
                lowered(rules))
          << path << " " << name.name;
      for (const auto& [other, text] : texts) {
        const Names its = names_of(text, other, &names);
        const std::string new_text = edited(text, renamed(its, name, "so_new_a_name"));
        const Names new_its = names_of(new_text, other, &new_names);
        EXPECT_EQ(lowered(edited(new_text, renamed(new_its, *new_name, name.name))), lowered(text))
            << other << " " << name.name;
        if (!other.ends_with(".cases") || path.find("terrace") != std::string::npos ||
            path.find("skep") != std::string::npos || path.find("stakes") != std::string::npos) {
          continue;
        }
        const auto game = Game::from_text(new_rules, path);
        ASSERT_TRUE(game) << game.diagnostics().render();
        const Picture picture = *Picture::from_text(
            *game,
            texts.contains(stem + ".draw")
                ? edited(texts[stem + ".draw"],
                         renamed(names_of(texts[stem + ".draw"], stem + ".draw", &names), name,
                                 "so_new_a_name"))
                : "",
            "drawing");
        CaseOptions options;
        options.reader = [&](const std::string& drawing, const std::vector<Term>& fluents) {
          return picture.read_drawn(drawing, fluents);
        };
        const auto cases = run_cases_of_text(*game, new_text, options);
        ASSERT_TRUE(cases) << other << " " << name.name << cases.diagnostics().render();
        for (const CaseResult& one : *cases)
          EXPECT_TRUE(one.passed()) << other << " " << one.name << " " << name.name;
      }
    }
  }
  EXPECT_GT(renamings, 100u);
}

TEST(Renaming, RefusesWhatWouldChangeTheGame) {
  const Names names = names_of(baskets);
  const auto fault = [&](const std::string& before, const std::string& name,
                         const std::string& instead) {
    return fault_in_renaming(names, name_at(names, before, name), instead).value_or("");
  };
  EXPECT_EQ(fault("(", "after", "follows"), "");
  EXPECT_THAT(fault("(", "after", "basket"), HasSubstr("basket is something else here already"));
  EXPECT_THAT(fault("(", "after", "true"), HasSubstr("a word of the language"));
  EXPECT_THAT(fault("(", "role", "who"), HasSubstr("a word of the language"));
  EXPECT_THAT(fault("(", "after", "two words"), HasSubstr("small letters"));
  EXPECT_THAT(fault("(role ", "east", "3"), HasSubstr("means that number"));
  EXPECT_THAT(fault("(role ", "east", "random"), HasSubstr("a word of the language"));
  EXPECT_THAT(fault("(legal ", "?who", "who"), HasSubstr("?name"));
  EXPECT_THAT(fault("(legal ", "?who", "?b"), HasSubstr("something else"));
  EXPECT_EQ(fault("(goal ", "?who", "?b"), "");  // another rule's
}

TEST(Fixes, WriteWhatWasMeant) {
  std::string rules = baskets;
  rules.insert(rules.find("(basket ?b))\n(<= (legal ?who wait)") + 7, "t");
  Shelf shelf("own.gdl", {});
  const auto reading = shelf.read({rules, "", {}});
  const Names names = names_of(rules);
  ASSERT_EQ(reading->findings.items().size(), 1u) << reading->findings.render();
  const auto fixes = fixes_of(names, reading->findings.items().front());
  ASSERT_EQ(fixes.size(), 2u) << reading->findings.render();
  EXPECT_EQ(fixes[0].title, "write basket instead of baskett");
  EXPECT_EQ(edited(rules, {fixes[0].edit}), baskets);
  // The other one says that it is meant.
  EXPECT_FALSE(fixes[1].likely);
  EXPECT_TRUE(shelf.read({edited(rules, {fixes[1].edit}), "", {}})->findings.empty());
}

TEST(Shelf, GivesUpWhenTold) {
  Shelf shelf("own.gdl", {});
  std::stop_source stop;
  stop.request_stop();
  EXPECT_FALSE(shelf.read({baskets, "", {}}, stop.get_token())->game);
  EXPECT_TRUE(shelf.read({baskets, "", {}})->game) << "what was given up is not kept";
}

}  // namespace
}  // namespace orchard::editing
