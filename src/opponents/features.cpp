#include "opponents/features.hpp"

#include <algorithm>
#include <cmath>

namespace orchard::opponents {

const Features& Features::of(const LaneGame& game) {
  return game.once<Features>([&] { return Features(game); });
}

Features::Features(const LaneGame& game)
    : things_(game.ground().moves().size()), weights_(things_.size()) {
  const auto& ground = game.ground();
  for (std::uint32_t number = 0; number < ground.fluents().size(); ++number) {
    const Term term = ground.terms().term(ground.fluents()[number].term);
    // Whose turn it is, or a number kept for a role, is no thing on a board.
    if (term.arity() < 2) continue;
    for (std::size_t role = 0; role < things_.size(); ++role) {
      const std::string name = ground.terms().text(ground.description().roles()[role]);
      for (const Term& argument : term.arguments()) {
        if (argument.to_string() == name) things_[role].push_back(number);
      }
    }
  }
  learn(game);
}

namespace {

// Least squares of a result on the features, apart for positions in which the role has a choice and
// those in which it has none, since it has other numbers of moves in them.
class Regression {
 public:
  static constexpr std::size_t kinds = Features::kinds;

  void add(bool chooses, const std::array<float, kinds>& seen, float result) {
    Group& group = groups_[chooses ? 1 : 0];
    const std::array<double, 3> values{static_cast<double>(seen[0]), static_cast<double>(seen[1]),
                                       static_cast<double>(result)};
    group.count += 1;
    for (std::size_t i = 0; i < 3; ++i) {
      group.sums[i] += values[i];
      for (std::size_t j = 0; j < 3; ++j) group.products[i][j] += values[i] * values[j];
    }
  }

  // How far each feature tells the result, in standard errors, as if so many of the positions were
  // independent of each other.
  std::array<double, kinds> tells(double independent) {
    double c[3][3] = {};
    double count = 0;
    for (const Group& group : groups_) {
      if (group.count < 2) continue;
      count += group.count;
      for (std::size_t i = 0; i < 3; ++i) {
        for (std::size_t j = 0; j < 3; ++j) {
          c[i][j] += group.products[i][j] - group.sums[i] * group.sums[j] / group.count;
        }
      }
    }
    std::array<double, kinds> result{};
    if (count < 8) return result;
    for (auto& line : c) {
      for (double& value : line) value /= count;
    }
    // A little is added to what varies, so that features that never do are no trouble.
    constexpr double little = 1e-9;
    const double a = c[0][0] + little;
    const double d = c[1][1] + little;
    const double determinant = a * d - c[0][1] * c[0][1];
    if (determinant < little * little) return result;
    const double first = (c[0][2] * d - c[1][2] * c[0][1]) / determinant;
    const double second = (c[1][2] * a - c[0][2] * c[0][1]) / determinant;
    const double left = std::max(little, c[2][2] - first * c[0][2] - second * c[1][2]);
    result[0] = first / std::sqrt(left * d / determinant / independent);
    result[1] = second / std::sqrt(left * a / determinant / independent);
    slopes_ = {first, second};
    return result;
  }
  // What a feature adds to the result, by the last call of `tells`.
  double slope(std::size_t kind) const { return slopes_[kind]; }

 private:
  struct Group {
    double count = 0;
    std::array<double, 3> sums{};
    double products[3][3] = {};
  };
  Group groups_[2];
  std::array<double, kinds> slopes_{};
};

}  // namespace

void Features::learn(const LaneGame& game) {
  constexpr std::size_t games = 256;
  constexpr std::size_t most_plies = 400;
  const auto tree = GameTree::make(game);
  Random random(20);
  struct Seen {
    std::array<float, kinds> values;
    bool chooses = false;
  };
  struct Played {
    Row row;
    std::vector<std::vector<Seen>> seen;  // by role
  };
  const std::size_t roles = things_.size();
  std::vector<Regression> regressions(roles);
  std::vector<Played> playing(
      games, {game.row(game.ground().initial()), std::vector<std::vector<Seen>>(roles)});
  for (std::size_t ply = 0; ply < most_plies && !playing.empty(); ++ply) {
    std::vector<Row> rows;
    for (const Played& played : playing) rows.push_back(played.row);
    const std::vector<Node> nodes = tree->nodes(rows);
    std::vector<Played> goes_on;
    std::vector<Row> from;
    std::vector<std::vector<std::uint32_t>> joints;
    for (std::size_t i = 0; i < playing.size(); ++i) {
      Played& played = playing[i];
      if (nodes[i].over) {
        for (std::size_t role = 0; role < roles; ++role) {
          for (const Seen& seen : played.seen[role]) {
            regressions[role].add(seen.chooses, seen.values, nodes[i].shares[role]);
          }
        }
        continue;
      }
      auto& joint = joints.emplace_back();
      for (std::size_t role = 0; role < roles; ++role) {
        const auto& legal = nodes[i].legal[role];
        joint.push_back(legal[random.below(legal.size())]);
        played.seen[role].push_back({seen(played.row, nodes[i], role), legal.size() > 1});
      }
      from.push_back(played.row);
      goes_on.push_back(std::move(played));
    }
    const std::vector<Row> next = tree->next(from, joints);
    for (std::size_t i = 0; i < goes_on.size(); ++i) goes_on[i].row = next[i];
    playing = std::move(goes_on);
  }
  for (std::size_t role = 0; role < roles; ++role) {
    // Positions of a game depend on each other: it counts as a few.
    constexpr double enough = 4;  // standard errors
    const auto tells = regressions[role].tells(3.0 * games);
    double all = 0;
    for (std::size_t kind = 0; kind < kinds; ++kind) {
      weights_[role][kind] =
          static_cast<float>(std::abs(tells[kind]) < enough ? 0 : regressions[role].slope(kind));
      all += std::abs(static_cast<double>(weights_[role][kind]));
    }
    for (float& weight : weights_[role]) weight = all > 0 ? weight / static_cast<float>(all) : 0;
  }
}

std::array<float, Features::kinds> Features::seen(const Row& row, const Node& node,
                                                  std::size_t role) const {
  return {balance(row, role), mobility(node, role)};
}

float Features::judge(const Row& row, const Node& node, std::size_t role) const {
  constexpr float beside = 0.004F;
  const auto values = seen(row, node, role);
  float told = 0;
  for (std::size_t kind = 0; kind < kinds; ++kind) told += weights_[role][kind] * values[kind];
  return node.shares[role] + beside * told;
}

// Own things minus the others', squeezed into -1 to 1.
float Features::balance(const Row& row, std::size_t role) const {
  const auto count = [&](std::size_t of) {
    return std::ranges::count_if(things_[of], [&](std::uint32_t number) {
      return (row[number / 64] >> (number % 64) & 1) != 0;
    });
  };
  std::ptrdiff_t difference = 0;
  std::ptrdiff_t all = 1;
  for (std::size_t of = 0; of < things_.size(); ++of) {
    const std::ptrdiff_t of_role = count(of);
    difference += of == role ? of_role : -of_role;
    all += of_role;
  }
  return static_cast<float>(difference) / static_cast<float>(all);
}

// Moves that are left to the others count against, one's own for.
float Features::mobility(const Node& node, std::size_t role) {
  float result = 0;
  for (std::size_t of = 0; of < node.legal.size(); ++of) {
    const auto moves = static_cast<float>(node.legal[of].size());
    result += (of == role ? moves : -moves) / (moves + 10);
  }
  return result;
}

}  // namespace orchard::opponents
