// The faulty descriptions that ship with the games: what is found without playing, word for word,
// one finding a fault; and that each is one small edit of a good description.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <filesystem>
#include <sstream>

#include "rules/description.hpp"
#include "support/files.hpp"

namespace orchard::rules::faulty_games_test {
namespace {

struct Faulty {
  const char* name;
  const char* game;  // that it was made from
  const char* code;  // null: found by exploring, or by cases
};

const Faulty table[] = {
    {"misspelled_relation", "espalier", "undefined-relation"},
    {"misspelled_content", "espalier", "impossible-condition"},
    {"misspelled_fluent", "silo", "impossible-condition"},
    {"misspelled_move", "channel", "impossible-condition"},
    {"misspelled_role", "channel", "not-a-role"},
    {"misspelled_variable", "silo", "unsafe-variable"},
    {"misspelled_name_in_order", "espalier", "similar-variables"},
    {"vanishing_square", "espalier", "unused-relation"},
    {"bare_corners_win", "espalier", "not-a-role"},
    {"draw_before_win", "espalier", "unused-relation"},
    {"missing_argument", "espalier", "function-arity"},
    {"missing_role_in_legal", "silo", "keyword-arity"},
    {"rows_for_columns", "espalier", "mixed-sorts"},
    {"anybody_waits", "silo", "unsafe-variable"},
    {"wins_unless_it_wins", "silo", "unstratified-negation"},
    {"end_that_looks_at_a_move", "channel", "depends-on-move"},
    {"start_that_looks_at_a_position", "espalier", "depends-on-position"},
    {"unclosed", "silo", "unclosed-parenthesis"},
    {"said_twice", "channel", "duplicate-rule"},
    {"condition_lost", "channel", "subsumed-rule"},
    {"undeclared", "channel", nullptr},
    {"declared_move_is_never_legal", "channel", "unmade-move"},
    {"unread_counter", "barrow_lane", "unread-fluent"},
    {"gap_in_the_order", "silo", "broken-order"},
    {"swapped_fact", "barrow_lane", "odd-constant"},
    {"counts_for_ever", "channel", "unbounded-recursion"},
    {"role_that_looks_at_facts", "hedgerow", "role-not-a-fact"},
    {"contrary_conditions", "barrow_lane", "contradictory-conditions"},
    {"percept_for_nobody", "hedgerow", "not-a-role"},
    {"one_sided_goal", "silo", "role-without-goal"},
    {"overwritten_square", "espalier", nullptr},
    {"forgotten_square", "espalier", nullptr},
    {"draw_never_noticed", "espalier", nullptr},
    {"same_player_again", "espalier", nullptr},
    {"win_for_the_wrong_side", "silo", nullptr},
    {"end_without_a_value", "espalier", nullptr},
    {"ring_closes_late", "barrow_lane", nullptr},
    {"counted_in_half_moves", "channel", nullptr},
    {"digger_never_wins", "channel", nullptr},
    {"start_is_the_end", "channel", "disjoint-places"},
    {"goes_on_though_decided", "market_day", nullptr},
    {"repetition_one_early", "scarecrow", nullptr},
    {"counts_while_feeding", "scarecrow", nullptr},
    {"walks_on_the_spot", "scarecrow", nullptr},
    {"wrong_outcome", "market_day", nullptr},
    {"two_winners", "market_day", nullptr},
    {"last_try_fails_too", "cellar", nullptr},
    {"first_dig_not_safe", "moles", nullptr},
    {"fewer_moles", "moles", nullptr},
    {"top_not_noticed", "snails", nullptr},
};

Diagnostics checked(const Faulty& faulty) {
  const std::string relative = std::string("games/faulty/") + faulty.name + ".gdl";
  Diagnostics diagnostics;
  Description::build(syntax::Source(relative, testing::read_file(testing::source_path(relative))),
                     {}, diagnostics);
  return diagnostics;
}

TEST(FaultyGames, AreFoundWordForWord) {
  int found = 0;
  for (const Faulty& faulty : table) {
    const Diagnostics diagnostics = checked(faulty);
    if (faulty.code == nullptr) {
      EXPECT_EQ(diagnostics.render(), "") << faulty.name;
      continue;
    }
    ++found;
    ASSERT_EQ(diagnostics.items().size(), 1u) << diagnostics.render();
    EXPECT_EQ(diagnostics.items().front().code, faulty.code);
    EXPECT_EQ(diagnostics.render(),
              testing::read_file(
                  testing::source_path(std::string("tests/rules/faulty/") + faulty.name + ".txt")));
  }
  EXPECT_GE(found, 25);
}

TEST(FaultyGames, AreAllInTheTable) {
  std::set<std::string> names;
  for (const Faulty& faulty : table) names.insert(faulty.name);
  for (const auto& entry :
       std::filesystem::directory_iterator(testing::source_path("games/faulty"))) {
    if (entry.path().extension() == ".gdl") {
      EXPECT_TRUE(names.erase(entry.path().stem()) == 1) << entry.path();
    }
  }
  EXPECT_THAT(names, ::testing::IsEmpty());
}

// Lines of the good description that the faulty one lacks, and the other way round.
TEST(FaultyGames, AreSmallEditsOfGoodOnes) {
  const auto lines_of = [](const std::string& path) {
    std::multiset<std::string> lines;
    std::istringstream text(testing::read_file(path));
    for (std::string line; std::getline(text, line);) {
      if (!line.starts_with(';') && !line.empty()) lines.insert(line);
    }
    return lines;
  };
  for (const Faulty& faulty : table) {
    const auto good = lines_of(testing::game_path(faulty.game));
    const auto bad = lines_of(testing::game_path(std::string("faulty/") + faulty.name));
    std::vector<std::string> difference;
    std::ranges::set_symmetric_difference(good, bad, std::back_inserter(difference));
    EXPECT_GE(difference.size(), 1u) << faulty.name;
    EXPECT_LE(difference.size(), 18u) << faulty.name;
  }
}

}  // namespace
}  // namespace orchard::rules::faulty_games_test
