#include "explore/sampling/sampled_games.hpp"

#include <algorithm>

#include "base/interruption.hpp"

namespace orchard::explore {

void SampledGames::play(std::size_t games, std::span<const std::uint64_t> from, Random& random,
                        std::size_t most_plies, const Visit& visit) {
  games = std::min(games, circuit::lanes);
  std::vector<std::uint64_t> rows;
  std::vector<Place> places;
  for (std::size_t i = 0; i < games; ++i) {
    places.push_back({lines_.size(), 0});
    lines_.emplace_back();
    const std::size_t before = rows.size();
    rows.insert(rows.end(), from.begin(), from.end());
    rows.resize(before + lanes_.words(), 0);
  }
  std::vector<std::uint32_t> legal;
  std::vector<std::uint32_t> joint(roles());
  std::vector<std::uint64_t> open;
  std::vector<Place> goes_on;
  while (!places.empty()) {
    end_if_interrupted();
    lanes_.set_positions(rows, places.size());
    visit(rows, places, lanes_);
    open.clear();
    goes_on.clear();
    for (std::size_t at = 0; at < places.size(); ++at) {
      const Place& place = places[at];
      bool over = lanes_.terminal(at) || place.ply >= most_plies;
      for (std::size_t role = 0; role < roles() && !over; ++role) {
        lanes_.legal(at, role, legal);
        over = legal.empty();
        if (!over) joint[role] = legal[random.below(legal.size())];
      }
      if (over) continue;
      std::vector<std::uint32_t>& line = lines_[place.game];
      line.insert(line.end(), joint.begin(), joint.end());
      lanes_.set_joint(goes_on.size(), joint);
      const auto row = std::span(rows).subspan(at * lanes_.words(), lanes_.words());
      open.insert(open.end(), row.begin(), row.end());
      goes_on.push_back({place.game, place.ply + 1});
    }
    rows.clear();
    if (!goes_on.empty()) {
      lanes_.load(open, goes_on.size());
      lanes_.step();
      for (std::size_t at = 0; at < goes_on.size(); ++at) {
        const auto row = lanes_.next(at);
        rows.insert(rows.end(), row.begin(), row.end());
      }
    }
    places.swap(goes_on);
  }
}

std::vector<std::vector<std::uint32_t>> SampledGames::line_to(const Place& place) const {
  std::vector<std::vector<std::uint32_t>> result;
  const auto line = std::span(lines_[place.game]);
  for (std::size_t ply = 0; ply < place.ply; ++ply) {
    const auto joint = line.subspan(ply * roles(), roles());
    result.emplace_back(joint.begin(), joint.end());
  }
  return result;
}

}  // namespace orchard::explore
