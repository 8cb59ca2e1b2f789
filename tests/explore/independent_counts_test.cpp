// Counts of positions by depth against programs of the same games, each written here straight from
// its rules in words, sharing nothing with the library. (Espalier: census_test.cpp.)
//
// A state is a list of numbers that says as much as the fluents do; so equal states are equal
// positions, and what is counted must agree.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <set>

#include "orchard/census.hpp"
#include "orchard/playouts.hpp"
#include "support/files.hpp"

namespace orchard::independent_counts_test {
namespace {

using State = std::vector<int>;
using States = std::vector<State>;

struct ByHand {
  State start;
  std::function<bool(const State&)> over;
  std::function<States(const State&)> next;  // of a state that is not over
};

void expect_same_counts(const std::string& name, const std::map<std::string, std::int64_t>& sizes,
                        const ByHand& game, std::uint64_t depth) {
  LoadOptions load;
  load.sizes = sizes;
  CensusOptions options;
  options.depth = depth;
  const Census census =
      take_census(Game::load(testing::game_path(name), load).value(), options).value();
  std::set<State> seen{game.start};
  States layer{game.start};
  for (std::size_t d = 0; d <= depth && !layer.empty(); ++d) {
    std::uint64_t ends = 0;
    States next_layer;
    for (const State& state : layer) {
      if (game.over(state)) {
        ++ends;
        continue;
      }
      if (d == depth) continue;
      for (const State& next : game.next(state)) {
        if (seen.insert(next).second) next_layer.push_back(next);
      }
    }
    ASSERT_LT(d, census.depths.size()) << name;
    EXPECT_EQ(census.depths[d].positions, layer.size()) << name << " depth " << d;
    EXPECT_EQ(census.depths[d].terminal, ends) << name << " depth " << d;
    EXPECT_EQ(census.depths[d].stuck, 0u) << name << " depth " << d;
    layer = std::move(next_layer);
  }
}

// 0, 1: bricks of the snails; 2, 3: what they climbed last; 4: whose turn.
TEST(IndependentCounts, Snails) {
  constexpr int wall = 15;
  const auto climbs = [](const State& s) {
    States result;
    const auto me = static_cast<std::size_t>(s[4]);
    for (int bricks = 1; bricks <= 3; ++bricks) {
      const int to = s[me] + bricks;
      if (to > wall || bricks == s[2 + me] || to == s[1 - me]) continue;
      State next = s;
      next[me] = to;
      next[2 + me] = bricks;
      next[4] = 1 - s[4];
      result.push_back(next);
    }
    return result;
  };
  expect_same_counts(
      "snails", {},
      {{0, 0, 0, 0, 0},
       [&](const State& s) { return s[0] == wall || s[1] == wall || climbs(s).empty(); },
       climbs},
      30);
}

// 0 … 8: beds, 0 dry, 1 damp, 2 soaked; 9: turns.
TEST(IndependentCounts, Sprinklers) {
  const auto water = [](const State& s, int row, int column, int times) {
    State next = s;
    const int reached[4][2] = {
        {row, column}, {row, column - 1}, {row, column + 1}, {row + 1, column}};
    for (const auto& [r, c] : reached) {
      if (r < 0 || r > 2 || c < 0 || c > 2) continue;
      int& bed = next[static_cast<std::size_t>(3 * r + c)];
      bed = (bed + times) % 3;
    }
    return next;
  };
  State start(10, 1);
  start[9] = 0;
  for (const int corner : {0, 1, 2})
    start = water(start, corner, corner, 2);  // twice on is once back
  expect_same_counts(
      "sprinklers", {},
      {start,
       [](const State& s) { return s[9] == 5 || std::count(s.begin(), s.begin() + 9, 1) == 9; },
       [&](const State& s) {
         States result;
         for (int bed = 0; bed < 9; ++bed) {
           result.push_back(water(s, bed / 3, bed % 3, 1));
           ++result.back()[9];
         }
         return result;
       }},
      5);
}

// 0, 1: where the bee is; 2: blossoms visited, a bit each; 3: last hop, 0 none, 1 across, 2 along.
TEST(IndependentCounts, Beeline) {
  const int petals[4][4] = {{1, 2, 1, 1}, {1, 2, 2, 1}, {1, 1, 2, 1}, {1, 2, 2, 1}};
  const auto hops = [&](const State& s) {
    States result;
    for (int way = 0; way < 4; ++way) {
      const int across = way < 2 ? 1 : 2;
      if (s[3] == across) continue;
      const int length = petals[s[0]][s[1]] * (way % 2 == 0 ? 1 : -1);
      const int row = s[0] + (across == 2 ? length : 0);
      const int column = s[1] + (across == 1 ? length : 0);
      if (row < 0 || row > 3 || column < 0 || column > 3) continue;
      const int bit = 1 << (4 * row + column);
      if ((s[2] & bit) != 0) continue;
      result.push_back({row, column, s[2] | bit, across});
    }
    return result;
  };
  expect_same_counts("beeline", {},
                     {{0, 0, 1, 0}, [&](const State& s) { return hops(s).empty(); }, hops}, 16);
}

// 0, 1: purses; 2: days; 3, 4: prices asked last, 0 none.
TEST(IndependentCounts, MarketDay) {
  const auto profit = [](int price, int against) {
    const int sold = price < against ? 4 : price > against ? 2 : 3;
    return price * sold - (4 - sold);
  };
  expect_same_counts("market_day", {{"days", 4}},
                     {{0, 0, 0, 0, 0},
                      [](const State& s) { return s[2] == 4; },
                      [&](const State& s) {
                        States result;
                        for (const int hill : {1, 2, 4}) {
                          for (const int vale : {1, 2, 4}) {
                            result.push_back({s[0] + profit(hill, vale), s[1] + profit(vale, hill),
                                              s[2] + 1, hill, vale});
                          }
                        }
                        return result;
                      }},
                     4);
}

// 0: ida plays, 0 not picked, 1 scarecrow, 2 crow; 1, 2: poles of scarecrow and crow; 3: to move, 0
// scarecrow, 1 crow; 4: times fed; 5: pole of the last feeding, or -1; then how often each places
// and mover were there.
TEST(IndependentCounts, Scarecrow) {
  constexpr int poles = 8;
  const std::set<std::pair<int, int>> chords{{0, 3}, {4, 7}, {2, 5}};
  const std::set<int> grain{1, 2, 5};
  const auto linked = [&](int a, int b) {
    return chords.contains({a, b}) || chords.contains({b, a});
  };
  const auto seen_at = [](const State& s) {
    return static_cast<std::size_t>(6 + (s[1] * poles + s[2]) * 2 + s[3]);
  };
  State start(6 + poles * poles * 2, 0);
  start[2] = 4;
  start[3] = 1;
  start[5] = -1;
  start[seen_at(start)] = 1;
  const auto over = [&](const State& s) {
    return s[1] == s[2] || s[4] == 3 || *std::max_element(s.begin() + 6, s.end()) == 3;
  };
  const auto next = [&](const State& s) {
    States result;
    if (s[0] == 0) {
      for (const int picked : {1, 2}) {
        result.push_back(s);
        result.back()[0] = picked;
      }
      return result;
    }
    const bool crow = s[3] == 1;
    const int from = crow ? s[2] : s[1];
    for (int to = 0; to < poles; ++to) {
      const int apart = (to - from + poles) % poles;
      const int step = crow ? 2 : 1;
      if (apart != step && apart != poles - step && !linked(from, to)) continue;
      if (crow && to == s[1]) continue;
      State after = s;
      after[crow ? 2 : 1] = to;
      after[3] = 1 - s[3];
      if (crow && grain.contains(to) && to != s[5]) {
        ++after[4];
        after[5] = to;
        std::fill(after.begin() + 6, after.end(), 0);
      }
      ++after[seen_at(after)];
      result.push_back(after);
    }
    return result;
  };
  expect_same_counts("scarecrow", {}, {start, over, next}, 12);
}

// 0 … 5: squares of the three; 6 … 8: fruit; 9 … 11: baskets; 12: who has the ladder; 13: turns.
TEST(IndependentCounts, Pickers) {
  const int trees[3][2] = {{0, 0}, {1, 2}, {2, 1}};
  const auto next = [&](const State& s) {
    States result;
    const int steps[5][2] = {{0, 0}, {1, 0}, {-1, 0}, {0, 1}, {0, -1}};
    for (int choice = 0; choice < 125; ++choice) {
      State after = s;
      bool inside = true;
      for (int p = 0, rest = choice; p < 3; ++p, rest /= 5) {
        for (int axis = 0; axis < 2; ++axis) {
          int& place = after[static_cast<std::size_t>(2 * p + axis)];
          place += steps[rest % 5][axis];
          inside = inside && place >= 0 && place <= 2;
        }
      }
      if (!inside) continue;
      for (std::size_t t = 0; t < 3; ++t) {
        std::vector<std::size_t> there;
        for (std::size_t p = 0; p < 3; ++p) {
          if (after[2 * p] == trees[t][0] && after[2 * p + 1] == trees[t][1]) there.push_back(p);
        }
        const auto holder = static_cast<std::size_t>(s[12]);
        std::size_t picker = 3;
        if (there.size() == 1) picker = there[0];
        if (std::ranges::find(there, holder) != there.end()) picker = holder;
        if (picker == 3 || s[6 + t] == 0) continue;
        --after[6 + t];
        ++after[9 + picker];
      }
      after[12] = (s[12] + 1) % 3;
      ++after[13];
      result.push_back(after);
    }
    return result;
  };
  expect_same_counts("pickers", {},
                     {{1, 1, 1, 1, 1, 1, 2, 3, 2, 0, 0, 0, 0, 0},
                      [](const State& s) { return s[6] + s[7] + s[8] == 0 || s[13] == 8; },
                      next},
                     4);
}

// Bins of four by four, each from its floor: 0 bare, 1 miller, 2 baker; 16: whose turn.
TEST(IndependentCounts, Silo) {
  constexpr int bins = 4;
  constexpr int heights = 4;
  const auto at = [](int height, int bin) { return static_cast<std::size_t>(height * bins + bin); };
  const auto filled = [&](const State& s, int bin) {
    int height = 0;
    while (height < heights && s[at(height, bin)] != 0) ++height;
    return height;
  };
  const auto wins = [&](const State& s, int who) {
    for (int h = 0; h < heights; ++h) {
      bool all = true;
      for (int b = 0; b < bins; ++b) all = all && s[at(h, b)] == who;
      if (all) return true;
    }
    // From the leftmost bin as far as crates touch.
    std::set<std::pair<int, int>> joined;
    std::vector<std::pair<int, int>> open;
    for (int h = 0; h < heights; ++h) open.push_back({h, 0});
    while (!open.empty()) {
      const auto [h, b] = open.back();
      open.pop_back();
      if (h < 0 || h >= heights || b < 0 || b >= bins || s[at(h, b)] != who) continue;
      if (!joined.insert({h, b}).second) continue;
      if (b == bins - 1) return true;
      for (const auto& [dh, db] : {std::pair(1, 0), {-1, 0}, {0, 1}, {0, -1}}) {
        open.push_back({h + dh, b + db});
      }
    }
    return false;
  };
  State start(17, 0);
  start[16] = 1;
  expect_same_counts("silo", {{"heights", 4}, {"bins", 4}},
                     {start,
                      [&](const State& s) {
                        return wins(s, 1) || wins(s, 2) ||
                               std::count(s.begin(), s.begin() + 16, 0) == 0;
                      },
                      [&](const State& s) {
                        States result;
                        for (int bin = 0; bin < bins; ++bin) {
                          const int height = filled(s, bin);
                          if (height == heights) continue;
                          int rests = bin;
                          // It stands on `height` crates: two or more above a bin with at least one
                          // crate less.
                          if (bin + 1 < bins && height - filled(s, bin + 1) >= 1) rests = bin + 1;
                          if (bin > 0 && height - filled(s, bin - 1) >= 1) rests = bin - 1;
                          State after = s;
                          after[at(filled(s, rests), rests)] = s[16];
                          after[16] = 3 - s[16];
                          result.push_back(after);
                        }
                        return result;
                      }},
                     8);
}

// 25 squares, 0 bare, 1 plum, 2 pear, 3 half-grafted, 4 stone; then whose turn, plants set up to
// four, passes.
TEST(IndependentCounts, Graft) {
  constexpr int size = 5;
  const auto inside = [](int r, int c) { return r >= 0 && r < size && c >= 0 && c < size; };
  const auto at = [](int r, int c) { return static_cast<std::size_t>(r * size + c); };
  State start(28, 0);
  start[at(1, size - 2)] = start[at(size - 2, 1)] = 4;
  start[25] = 1;
  const auto is_plant = [](int content) { return content >= 1 && content <= 3; };
  expect_same_counts("graft", {{"rows", size}, {"columns", size}},
                     {start, [](const State& s) { return s[27] == 2; },
                      [&](const State& s) {
                        States result;
                        const int me = s[25];
                        for (int r = 0; r < size; ++r) {
                          for (int c = 0; c < size; ++c) {
                            if (s[at(r, c)] != 0) continue;
                            bool touches = false;
                            State after = s;
                            for (int dr = -1; dr <= 1; ++dr) {
                              for (int dc = -1; dc <= 1; ++dc) {
                                if (dr == 0 && dc == 0) continue;
                                int fr = r + dr;
                                int fc = c + dc;
                                touches = touches || (inside(fr, fc) && is_plant(s[at(fr, fc)]));
                                while (inside(fr, fc) && s[at(fr, fc)] == 0) {
                                  fr += dr;
                                  fc += dc;
                                }
                                if (!inside(fr, fc)) continue;
                                int& met = after[at(fr, fc)];
                                if (s[at(fr, fc)] == 3 - me) met = 3;
                                if (s[at(fr, fc)] == 3) met = me;
                              }
                            }
                            if (s[26] == 4 && !touches) continue;
                            after[at(r, c)] = me;
                            after[25] = 3 - me;
                            after[26] = std::min(4, s[26] + 1);
                            after[27] = 0;
                            result.push_back(after);
                          }
                        }
                        if (result.empty()) {
                          result.push_back(s);
                          result.back()[25] = 3 - me;
                          ++result.back()[27];
                        }
                        return result;
                      }},
                     4);
}

// 0 … 3: jars on the shelf; 4 … 7: jars named; 8: tries; 9: found out. Chance and the mouse choose.
TEST(IndependentCounts, Cellar) {
  const auto fill = [](const State& s, std::size_t first) {
    States result;
    std::size_t place = first;
    while (s[place] != 0) ++place;
    for (int kind = 1; kind <= 5; ++kind) {
      if (std::find(s.begin() + static_cast<std::ptrdiff_t>(first),
                    s.begin() + static_cast<std::ptrdiff_t>(first + 4),
                    kind) != s.begin() + static_cast<std::ptrdiff_t>(first + 4)) {
        continue;
      }
      State after = s;
      after[place] = kind;
      if (place == 7) {
        after[9] = std::equal(after.begin(), after.begin() + 4, after.begin() + 4) ? 1 : 0;
        ++after[8];
        std::fill(after.begin() + 4, after.begin() + 8, 0);
      }
      result.push_back(after);
    }
    return result;
  };
  expect_same_counts("cellar", {{"tries", 2}},
                     {State(10, 0), [](const State& s) { return s[9] == 1 || s[8] == 2; },
                      [&](const State& s) { return fill(s, s[3] == 0 ? 0 : 4); }},
                     12);
}

// Shares of the outcomes of random play against their exact expectation, within five standard
// errors.
void expect_share(const std::string& name, const std::vector<std::string>& values, double exact) {
  PlayoutOptions options;
  options.games = 400'000;
  const PlayoutStatistics played =
      run_playouts(Game::load(testing::game_path(name)).value(), options).value();
  std::uint64_t count = 0;
  for (const auto& [goals, times] : played.outcomes) {
    bool same = true;
    for (std::size_t r = 0; r < values.size(); ++r) {
      same =
          same && (values[r].empty() || goals[r] == std::vector<Term>{Term::constant(values[r])});
    }
    count += same ? times : 0;
  }
  const double games = static_cast<double>(played.playouts);
  const double error = std::sqrt(exact * (1 - exact) / games);
  EXPECT_NEAR(static_cast<double>(count) / games, exact, 5 * error) << name;
}

// Six tries, each one of the 120 orders, whatever stands on the shelf.
TEST(ExactExpectation, Cellar) {
  expect_share("cellar", {"100"}, 1 - std::pow(119.0 / 120, 6));
}

// Three days of nine pairs of prices.
TEST(ExactExpectation, MarketDay) {
  const int gain[3][3] = {{0, 2, -2}, {-2, 0, 2}, {2, -2, 0}};  // hill's over vale's, low fair high
  int ahead = 0;
  for (int days = 0; days < 9 * 9 * 9; ++days) {
    int lead = 0;
    for (int rest = days, day = 0; day < 3; ++day, rest /= 9) lead += gain[rest % 3][rest / 3 % 3];
    ahead += lead > 0 ? 1 : 0;
  }
  expect_share("market_day", {"100"}, ahead / 729.0);
}

}  // namespace
}  // namespace orchard::independent_counts_test
