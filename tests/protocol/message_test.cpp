// The messages of the match protocol, byte by byte where the publication fixes them.
#include "protocol/message.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "orchard/random.hpp"

namespace orchard::protocol {
namespace {

using ::testing::ElementsAre;
using ::testing::HasSubstr;

Term term(const std::string& text) {
  return Term::parse(text).value();
}

Message read(const std::string& text) {
  const auto message = read_message(text);
  EXPECT_TRUE(message) << text << "\n" << message.diagnostics().render();
  return message ? *message : Message();
}

TEST(Messages, AreWrittenAsPublished) {
  EXPECT_EQ(info_message(), "(info)");
  EXPECT_EQ(start_message("m1", "east", "(role east) (role west)", 10, 2.5),
            "(start m1 east ((role east) (role west)) 10 2.5)");
  EXPECT_EQ(play_message("m1", {}), "(play m1 nil)");
  EXPECT_EQ(play_message("m1", {term("(tie 1 2)"), term("wait")}), "(play m1 ((tie 1 2) wait))");
  EXPECT_EQ(stop_message("m1", {term("wait"), term("wait")}), "(stop m1 (wait wait))");
  EXPECT_EQ(play_message("m1", 0, std::nullopt, {}), "(play m1 0 nil nil)");
  EXPECT_EQ(play_message("m1", 3, term("look"), {term("(heard 2)"), term("light")}),
            "(play m1 3 look ((heard 2) light))");
  EXPECT_EQ(play_message("m1", 4, term("look"), {}), "(play m1 4 look ())");
  EXPECT_EQ(stop_message("m1", 5, term("look"), {term("light")}), "(stop m1 5 look (light))");
  EXPECT_EQ(abort_message("m1"), "(abort m1)");
}

TEST(Messages, AreReadInAnyCaseAndForm) {
  for (const char* const text : {"(info)", "(INFO)", " ( Info ) ", "INFO", "; hello\n(info)"}) {
    EXPECT_EQ(read(text).kind, Message::Kind::info) << text;
  }
  const Message start =
      read("(START Match.7 East ((ROLE East)\n(<= (Legal East ?X) (Bed ?X))) 30 5)");
  EXPECT_EQ(start.kind, Message::Kind::start);
  EXPECT_EQ(start.match, "match.7");
  EXPECT_EQ(start.role, "east");
  EXPECT_EQ(start.rules, "(role east)\n(<= (legal east ?x) (bed ?x))\n");
  EXPECT_EQ(start.start_seconds, 30);
  EXPECT_EQ(start.play_seconds, 5);
  for (const char* const text : {"(play m nil)", "(PLAY M NIL)", "(play m ())"}) {
    const Message play = read(text);
    EXPECT_TRUE(play.first) << text;
    EXPECT_EQ(play.match, "m");
    EXPECT_FALSE(play.turn);
  }
  EXPECT_THAT(read("(play m ((TIE 1 2) Wait))").joint,
              ElementsAre(term("(tie 1 2)"), term("wait")));
  const Message first = read("(play m 0 nil nil)");
  EXPECT_TRUE(first.first);
  EXPECT_EQ(first.turn, 0u);
  const Message later = read("(play m 2 (open 1) (found (light on)))");
  EXPECT_EQ(later.turn, 2u);
  EXPECT_EQ(later.own_move, term("(open 1)"));
  EXPECT_THAT(later.percepts, ElementsAre(term("found"), term("(light on)")));
  EXPECT_THAT(read("(play m 2 nil nil)").own_move, term("nil")) << "a move may be called nil";
  EXPECT_EQ(read("(stop m (wait))").kind, Message::Kind::stop);
  EXPECT_EQ(read("(abort m)").kind, Message::Kind::abort);
  EXPECT_EQ(read("(preview ((role a)) 3)").start_seconds, 3);
}

TEST(Messages, ThatMakeNoSenseAreRefusedInWords) {
  const std::pair<const char*, const char*> wrong[] = {
      {"", "one list was expected, not 0"},
      {"(info) (info)", "one list was expected, not 2"},
      {"hello", "a list was expected"},
      {"(hello)", "there is no message hello"},
      {"((info))", "begins with no word"},
      {"(info", "never closed"},
      {"(start m east ((role east)) 5)", "start has 5 parts"},
      {"(start m east (role) x 5)", "x is not a number of seconds"},
      {"(start m east (a) -1 5)", "-1 is not a number of seconds"},
      {"(start m east (a) nan 5)", "nan is not a number"},
      {"(start m east a 5 5)", "the rules are not a list"},
      {"(start m east () 5 5)", "there are no rules"},
      {"(start (a b) east ((role east)) 5 5)", "part 1 is not a name"},
      {"(start m east ((#include \"secret\")) 5 5)", "#include is no part of the language"},
      {"(start m east ((role east) (#let a 5)) 5 5)", "#let is no part of the language"},
      {"(play m)", "play has 2 parts"},
      {"(play m 1 wait)", "play has 4 parts"},
      {"(play m ((a ?x)))", "not a term without variables"},
      {"(play m two wait ())", "the turn is not a number"},
      {"(play m 99999999999 wait ())", "the turn is not a number"},
      {"(abort)", "abort has 1 parts"},
  };
  for (const auto& [text, why] : wrong) {
    const auto message = read_message(text);
    ASSERT_FALSE(message) << text;
    EXPECT_THAT(message.diagnostics().render(), HasSubstr(why)) << text;
  }
  const std::string deep = "(play m (" + std::string(300, '(') + std::string(300, ')') + "))";
  EXPECT_FALSE(read_message(deep));
  EXPECT_THAT(read_message(std::string(2000, 'a'), {.bytes = 1000}).diagnostics().render(),
              HasSubstr("2000 bytes; at most 1000"));
}

TEST(Messages, RepliesAreReadLiberally) {
  EXPECT_EQ(symbol_of_reply("READY"), "ready");
  EXPECT_EQ(symbol_of_reply(" (ready) \n"), "ready");
  EXPECT_EQ(symbol_of_reply("((name x))"), "");
  EXPECT_EQ(symbol_of_reply("ready steady"), "");
  EXPECT_EQ(move_of_reply("(TIE 1 2)").value(), term("(tie 1 2)"));
  EXPECT_EQ(move_of_reply("(wait)").value(), term("wait"));
  EXPECT_FALSE(move_of_reply(""));
  EXPECT_FALSE(move_of_reply("(tie ?x)"));
  EXPECT_FALSE(move_of_reply("a b"));
}

// What is written is read back to the same, whatever the terms.
TEST(Messages, GoThereAndBack) {
  Random random(7);
  const auto any_term = [&](auto&& self, int depth) -> std::string {
    if (depth == 0 || random.below(2) == 0) return "name" + std::to_string(random.below(5));
    std::string text = "(f" + std::to_string(random.below(3));
    for (std::uint64_t i = 0; i <= random.below(3); ++i) text += " " + self(self, depth - 1);
    return text + ")";
  };
  for (int i = 0; i < 300; ++i) {
    std::vector<Term> terms;
    for (std::uint64_t k = 0; k <= random.below(4); ++k)
      terms.push_back(term(any_term(any_term, 3)));
    EXPECT_EQ(read(play_message("m", terms)).joint, terms);
    const Message told = read(stop_message("m", i, terms.front(), terms));
    EXPECT_EQ(told.own_move, terms.front());
    EXPECT_EQ(told.percepts, terms);
    EXPECT_EQ(told.turn, static_cast<std::uint64_t>(i));
  }
}

}  // namespace
}  // namespace orchard::protocol
