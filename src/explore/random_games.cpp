#include "explore/random_games.hpp"

#include <algorithm>

namespace orchard {

std::vector<std::vector<float>> goal_shares(const LaneGame& game) {
  std::vector<std::vector<float>> result;
  for (const auto& goals : game.ground().goals()) {
    std::vector<float>& shares = result.emplace_back();
    for (const auto& goal : goals) {
      const auto number = game.ground().terms().term(goal.term).number();
      shares.push_back(number ? std::clamp(static_cast<float>(*number) / 100.0F, 0.0F, 1.0F)
                              : 0.0F);
    }
  }
  return result;
}

RandomGames::RandomGames(const LaneGame& game)
    : game_(game), lanes_(game), shares_(goal_shares(game)) {}

std::vector<float> RandomGames::play(std::span<const std::uint64_t> rows, std::size_t count,
                                     Random& random, std::uint64_t most_plies) {
  const std::size_t words = lanes_.words();
  const std::size_t roles = shares_.size();
  std::vector<float> result(count * roles, unfinished);
  struct Lane {
    std::size_t game = 0;
    std::uint64_t plies = 0;
  };
  std::vector<Lane> playing;
  std::vector<std::uint64_t> now;
  std::vector<std::uint64_t> open;
  std::vector<std::uint32_t> numbers;
  std::vector<std::uint32_t> joint(roles);
  std::size_t next = 0;  // position that waits
  while (true) {
    while (playing.size() < LaneEvaluator::most && next < count) {
      const auto row = rows.subspan(next * words, words);
      now.insert(now.end(), row.begin(), row.end());
      playing.push_back({next++, 0});
    }
    if (playing.empty()) return result;
    lanes_.set_positions(now, playing.size());
    std::vector<Lane> goes_on;
    open.clear();
    for (std::size_t at = 0; at < playing.size(); ++at) {
      const Lane& lane = playing[at];
      bool over = lanes_.terminal(at);
      if (!over && lane.plies >= most_plies) continue;
      if (!over) {
        for (std::size_t role = 0; role < roles && !over; ++role) {
          lanes_.legal(at, role, numbers);
          over = numbers.empty();  // stuck: nothing goes on from here
          if (!over) joint[role] = numbers[random.below(numbers.size())];
        }
      }
      if (over) {
        for (std::size_t role = 0; role < roles; ++role) {
          lanes_.goals(at, role, numbers);
          if (numbers.size() == 1) result[lane.game * roles + role] = shares_[role][numbers[0]];
        }
        continue;
      }
      lanes_.set_joint(goes_on.size(), joint);
      const auto row = std::span(now).subspan(at * words, words);
      open.insert(open.end(), row.begin(), row.end());
      goes_on.push_back({lane.game, lane.plies + 1});
    }
    now.clear();
    if (!goes_on.empty()) {
      lanes_.load(open, goes_on.size());
      lanes_.step();
      for (std::size_t at = 0; at < goes_on.size(); ++at) {
        const auto row = lanes_.next(at);
        now.insert(now.end(), row.begin(), row.end());
      }
    }
    playing = std::move(goes_on);
  }
}

}  // namespace orchard
