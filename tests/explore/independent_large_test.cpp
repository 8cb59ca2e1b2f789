// The heaviest demo games against programs of the same games, written here straight from their
// rules in words, sharing nothing with the library; and the two writings of terrace against each
// other.
#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "orchard/census.hpp"
#include "orchard/playouts.hpp"
#include "support/files.hpp"

namespace orchard::independent_large_test {
namespace {

using Place = std::pair<int, int>;  // row and column, from 0

// Counts positions by depth down to `depth`; `next` gives the states after a state.
template <class State, class Over, class Next>
std::vector<std::pair<std::uint64_t, std::uint64_t>> count(const State& start, std::size_t depth,
                                                           const Over& over, const Next& next) {
  std::vector<std::pair<std::uint64_t, std::uint64_t>> counts;
  std::set<State> seen{start};
  std::vector<State> layer{start};
  for (std::size_t d = 0; d <= depth; ++d) {
    std::uint64_t ends = 0;
    std::vector<State> next_layer;
    for (const State& state : layer) {
      const std::vector<State> after = next(state);
      if (over(state, after)) {
        ++ends;
        continue;
      }
      if (d == depth) continue;
      for (const State& found : after) {
        if (seen.insert(found).second) next_layer.push_back(found);
      }
    }
    counts.push_back({layer.size(), ends});
    layer = std::move(next_layer);
  }
  return counts;
}

Census census_of(const std::string& name, const std::map<std::string, std::int64_t>& sizes,
                 std::uint64_t depth) {
  LoadOptions load;
  load.sizes = sizes;
  CensusOptions options;
  options.depth = depth;
  return take_census(Game::load(testing::game_path(name), load).value(), options).value();
}

void expect_same(const std::vector<std::pair<std::uint64_t, std::uint64_t>>& counts,
                 const Census& census) {
  for (std::size_t d = 0; d < counts.size(); ++d) {
    EXPECT_EQ(census.depths[d].positions, counts[d].first) << "depth " << d;
    EXPECT_EQ(census.depths[d].terminal, counts[d].second) << "depth " << d;
  }
}

// ---- Terrace ----

// A board of letters, large ones for ridge; '.' for a bare square.
struct Slope {
  std::vector<std::string> board;
  bool ridge = true;    // to move
  Place fresh{-1, -1};  // a seedling that may be trampled
  int calm = 0;
  std::array<Place, 2> left{{{-1, -1}, {-1, -1}}};  // ridge, dale
  std::array<Place, 2> came{{{-1, -1}, {-1, -1}}};
  int to_and_fro = 0;
  auto operator<=>(const Slope&) const = default;
};

class Terrace {
 public:
  explicit Terrace(int rows, int columns) : rows_(rows), columns_(columns) {}

  Slope start() const {
    const std::string kinds = std::string("RHGWPHPR").substr(0, static_cast<std::size_t>(columns_));
    Slope slope;
    slope.board.assign(static_cast<std::size_t>(rows_), std::string(kinds.size(), '.'));
    slope.board[0] = kinds;
    slope.board[1] = std::string(kinds.size(), 'S');
    slope.board[slope.board.size() - 2] = std::string(kinds.size(), 's');
    for (const char kind : kinds) {
      slope.board.back()[slope.board.back().find('.')] = static_cast<char>(std::tolower(kind));
    }
    return slope;
  }

  bool attacked(const Slope& slope, bool ridge) const {
    const Place warden = find(slope, ridge ? 'W' : 'w');
    if (warden.first < 0) return false;
    for (int row = 0; row < rows_; ++row) {
      for (int column = 0; column < columns_; ++column) {
        const char piece = at(slope, row, column);
        if (piece == '.' || is_ridge(piece) == ridge) continue;
        if (attacks(slope, {row, column}, warden)) return true;
      }
    }
    return false;
  }

  // The positions after each legal move, but for turns that are over for another reason.
  std::vector<Slope> next(const Slope& slope) const {
    std::vector<Slope> result;
    for (int row = 0; row < rows_; ++row) {
      for (int column = 0; column < columns_; ++column) {
        const char piece = at(slope, row, column);
        if (piece == '.' || is_ridge(piece) != slope.ridge) continue;
        for (int to_row = 0; to_row < rows_; ++to_row) {
          for (int to_column = 0; to_column < columns_; ++to_column) {
            try_move(slope, {row, column}, {to_row, to_column}, result);
          }
        }
      }
    }
    return result;
  }

  bool over(const Slope& slope, const std::vector<Slope>& after) const {
    int gates = 0;
    int others = 0;
    for (const std::string& row : slope.board) {
      for (const char piece : row) {
        if (piece == '.') continue;
        const int kind = std::toupper(piece);
        if (kind == 'G') ++gates;
        if (kind != 'G' && kind != 'W') ++others;
      }
    }
    return after.empty() || (others == 0 && gates < 2) || slope.calm == 80 || slope.to_and_fro == 6;
  }

 private:
  static bool is_ridge(char piece) { return piece >= 'A' && piece <= 'Z'; }
  bool inside(Place place) const {
    return place.first >= 0 && place.second >= 0 && place.first < rows_ && place.second < columns_;
  }
  static char at(const Slope& slope, int row, int column) {
    return slope.board[static_cast<std::size_t>(row)][static_cast<std::size_t>(column)];
  }
  static char at(const Slope& slope, Place place) { return at(slope, place.first, place.second); }
  static void put(Slope& slope, Place place, char piece) {
    slope.board[static_cast<std::size_t>(place.first)][static_cast<std::size_t>(place.second)] =
        piece;
  }
  Place find(const Slope& slope, char piece) const {
    for (int row = 0; row < rows_; ++row) {
      for (int column = 0; column < columns_; ++column) {
        if (at(slope, row, column) == piece) return {row, column};
      }
    }
    return {-1, -1};
  }
  static int sign(int number) { return number > 0 ? 1 : number < 0 ? -1 : 0; }

  // Whether all squares strictly between two of a line are bare.
  static bool sees(const Slope& slope, Place from, Place to) {
    const int down = to.first - from.first;
    const int across = to.second - from.second;
    if (down != 0 && across != 0 && std::abs(down) != std::abs(across)) return false;
    for (Place place{from.first + sign(down), from.second + sign(across)}; place != to;
         place = {place.first + sign(down), place.second + sign(across)}) {
      if (at(slope, place) != '.') return false;
    }
    return true;
  }

  // Whether the piece could take a rival one there.
  bool attacks(const Slope& slope, Place from, Place to) const {
    const char piece = at(slope, from);
    const int down = to.first - from.first;
    const int across = to.second - from.second;
    const int far = std::max(std::abs(down), std::abs(across));
    if (far == 0) return false;
    switch (std::toupper(piece)) {
      case 'W':
        return far == 1;
      case 'H':
        return far == 2;
      case 'P':
        return std::abs(down) == std::abs(across) && far <= 3 && sees(slope, from, to);
      case 'S':
        return down == (is_ridge(piece) ? 1 : -1) && std::abs(across) == 1;
      case 'R': {
        const Place behind{to.first + sign(down), to.second + sign(across)};
        return (down == 0 || across == 0) && sees(slope, from, to) && inside(behind) &&
               at(slope, behind) == '.';
      }
      default:
        return false;
    }
  }

  void try_move(const Slope& slope, Place from, Place to, std::vector<Slope>& result) const {
    const char piece = at(slope, from);
    const char there = at(slope, to);
    const int kind = std::toupper(piece);
    const int down = to.first - from.first;
    const int across = to.second - from.second;
    const int ahead = slope.ridge ? 1 : -1;
    const bool straight = (down == 0) != (across == 0);
    const bool foe = there != '.' && is_ridge(there) != slope.ridge;
    bool takes = false;
    bool doubles = false;
    Place over{-1, -1};
    Slope after = slope;
    put(after, from, '.');
    put(after, to, piece);
    if (kind == 'G') {
      if (!straight || there == '.' || foe || std::toupper(there) == 'G') return;
      if (!sees(slope, from, to)) return;
      put(after, from, there);
    } else if (kind == 'R') {
      if (!straight || there != '.') return;
      over = {to.first - sign(down), to.second - sign(across)};
      const char leapt = at(slope, over);
      takes = over != from && leapt != '.' && is_ridge(leapt) != slope.ridge;
      if (takes) {
        if (!sees(slope, from, over)) return;
        put(after, over, '.');
      } else if (!sees(slope, from, to)) {
        return;
      }
    } else if (kind == 'S') {
      const bool straight_on = across == 0 && there == '.';
      doubles = straight_on && down == 2 * ahead && from.first == (slope.ridge ? 1 : rows_ - 2) &&
                at(slope, from.first + ahead, from.second) == '.';
      const bool trample = down == 0 && std::abs(across) == 1 && to == slope.fresh;
      takes = foe && (attacks(slope, from, to) || trample);
      if (!doubles && !takes && !(straight_on && down == ahead)) return;
    } else {
      if ((there != '.' && !foe) || !attacks(slope, from, to)) return;
      takes = foe;
    }
    if (attacked(after, slope.ridge)) return;
    const std::size_t side = slope.ridge ? 0 : 1;
    const bool progress = takes || kind == 'S';
    const bool back = !progress && slope.came[side] == from && slope.left[side] == to;
    after.ridge = !slope.ridge;
    after.fresh = doubles ? to : Place{-1, -1};
    after.calm = progress ? 0 : slope.calm + 1;
    after.left[side] = from;
    after.came[side] = to;
    after.to_and_fro = back ? slope.to_and_fro + 1 : 0;
    if (kind == 'S' && to.first == (slope.ridge ? rows_ - 1 : 0)) {
      for (const char grown : std::string("RPHG")) {
        put(after, to, slope.ridge ? grown : static_cast<char>(std::tolower(grown)));
        result.push_back(after);
      }
    } else {
      result.push_back(after);
    }
  }

  int rows_;
  int columns_;
};

TEST(IndependentLarge, Terrace) {
  for (const auto& [rows, columns, depth] : {std::array{6, 6, 3}, std::array{5, 5, 4}}) {
    const Terrace terrace(rows, columns);
    const auto counts = count(
        terrace.start(), static_cast<std::size_t>(depth),
        [&](const Slope& slope, const auto& after) { return terrace.over(slope, after); },
        [&](const Slope& slope) { return terrace.next(slope); });
    expect_same(counts, census_of("terrace", {{"rows", rows}, {"columns", columns}},
                                  static_cast<std::uint64_t>(depth)));
  }
}

// The two writings have the same moves in the same order, so the same draws play the same games.
TEST(IndependentLarge, TerraceByRaysIsTheSameGame) {
  LoadOptions load;
  load.sizes = {{"rows", 5}, {"columns", 5}, {"patience", 20}};
  std::vector<PlayoutStatistics> played;
  for (const char* name : {"terrace", "terrace_rays"}) {
    const Game game = Game::load(testing::game_path(name), load).value();
    PlayoutOptions options;
    options.games = 20'000;
    options.seed = 5;
    played.push_back(run_playouts(game, options).value());
    EXPECT_EQ(played.back().outcomes.size(), 3u);
  }
  EXPECT_EQ(played[0].plies, played[1].plies);
  EXPECT_EQ(played[0].lengths, played[1].lengths);
  EXPECT_EQ(played[0].branching, played[1].branching);
  for (const auto& [values, games] : played[0].outcomes) {
    const auto same = std::ranges::find_if(played[1].outcomes, [&](const auto& other) {
      return other.first[0][0].to_string() == values[0][0].to_string();
    });
    ASSERT_NE(same, played[1].outcomes.end());
    EXPECT_EQ(same->second, games);
  }
  const Census by_facts = census_of("terrace", load.sizes, 4);
  const Census by_rays = census_of("terrace_rays", load.sizes, 4);
  for (std::size_t d = 0; d < by_facts.depths.size(); ++d) {
    EXPECT_EQ(by_facts.depths[d].positions, by_rays.depths[d].positions);
    EXPECT_EQ(by_facts.depths[d].terminal, by_rays.depths[d].terminal);
  }
}

// ---- Stakes ----

// '.' bare, 'x' staked, 'M' and 'L' ladders.
struct Garden {
  std::string beds;
  bool marl = true;  // to move
  auto operator<=>(const Garden&) const = default;
};

class Stakes {
 public:
  Stakes(int rows, int columns) : rows_(rows), columns_(columns) {}

  Garden start() const {
    Garden garden{std::string(static_cast<std::size_t>(rows_ * columns_), '.'), true};
    for (const Place& place : {Place{0, 1}, Place{1, columns_ - 1}, Place{rows_ - 3, 0}}) {
      garden.beds[bed(place)] = 'M';
    }
    for (const Place& place :
         {Place{rows_ - 1, columns_ - 2}, Place{rows_ - 2, 0}, Place{2, columns_ - 1}}) {
      garden.beds[bed(place)] = 'L';
    }
    return garden;
  }

  std::vector<Garden> moves(const Garden& garden, bool marl) const {
    std::vector<Garden> result;
    for (int row = 0; row < rows_; ++row) {
      for (int column = 0; column < columns_; ++column) {
        if (garden.beds[bed({row, column})] != (marl ? 'M' : 'L')) continue;
        for (const Place& way : {Place{0, 1}, Place{0, -1}, Place{1, 0}, Place{-1, 0}}) {
          Place to{row, column};
          for (int walked = 1; walked <= 3; ++walked) {
            to = {to.first + way.first, to.second + way.second};
            if (!inside(to) || garden.beds[bed(to)] != '.') break;
            Garden after = garden;
            std::swap(after.beds[bed({row, column})], after.beds[bed(to)]);
            drive(after, to, result);
          }
        }
      }
    }
    for (Garden& after : result) after.marl = !garden.marl;
    return result;
  }

  std::vector<Garden> next(const Garden& garden) const {
    std::vector<Garden> result = moves(garden, garden.marl);
    if (result.empty() && !moves(garden, !garden.marl).empty()) {
      result.push_back(garden);
      result.back().marl = !garden.marl;
    }
    return result;
  }

 private:
  bool inside(Place place) const {
    return place.first >= 0 && place.second >= 0 && place.first < rows_ && place.second < columns_;
  }
  std::size_t bed(Place place) const {
    return static_cast<std::size_t>(place.first * columns_ + place.second);
  }
  void drive(const Garden& garden, Place from, std::vector<Garden>& result) const {
    std::set<std::size_t> seen;
    for (int down = -1; down <= 1; ++down) {
      for (int across = -1; across <= 1; ++across) {
        if (down == 0 && across == 0) continue;
        Place place{from.first + down, from.second + across};
        while (inside(place) && garden.beds[bed(place)] == '.') {
          seen.insert(bed(place));
          place = {place.first + down, place.second + across};
        }
      }
    }
    for (const std::size_t first : seen) {
      for (const std::size_t second : seen) {
        if (first >= second) continue;
        result.push_back(garden);
        result.back().beds[first] = result.back().beds[second] = 'x';
      }
    }
  }

  int rows_;
  int columns_;
};

TEST(IndependentLarge, Stakes) {
  for (const auto& [rows, columns, depth] : {std::array{4, 4, 3}, std::array{5, 5, 2}}) {
    const Stakes stakes(rows, columns);
    const auto counts = count(
        stakes.start(), static_cast<std::size_t>(depth),
        [](const Garden&, const auto& after) { return after.empty(); },
        [&](const Garden& garden) { return stakes.next(garden); });
    expect_same(counts, census_of("stakes", {{"rows", rows}, {"columns", columns}},
                                  static_cast<std::uint64_t>(depth)));
  }
}

}  // namespace
}  // namespace orchard::independent_large_test
