#include "explore/keys/census_codes.hpp"

namespace orchard::explore {

CensusCodes::CensusCodes(const LaneGame& game, std::span<const std::uint64_t> start, bool symmetry)
    : game_(game),
      renamings_(symmetry ? renamings_of(game, start) : Renamings{}),
      finder_(game.ground()),
      joiner_(game) {
  sample(start);
}

void CensusCodes::play(SampledGames& samples, std::size_t games,
                       std::span<const std::uint64_t> start, std::uint64_t depth, Random& random,
                       const SampledGames::Visit& visit) {
  constexpr std::size_t most_plies = 400;
  samples.play(games, start, random, most_plies,
               [&](std::span<const std::uint64_t> rows, std::span<const SampledGames::Place> places,
                   const LaneEvaluator& lanes) {
                 for (std::size_t at = 0; at < places.size(); ++at) {
                   const auto row = rows.subspan(at * lanes.words(), lanes.words());
                   show(row);
                   joiner_.observe(row, depth + places[at].ply);
                 }
                 seen_ += places.size();
                 visit(rows, places, lanes);
               });
}

void CensusCodes::sample(std::span<const std::uint64_t> start) {
  constexpr std::size_t enough_rows = 20'000;
  constexpr std::size_t first_games = 64;
  MeasureFinder measures(game_.ground());
  SampledGames samples(game_);
  Random random(1);
  std::size_t games = first_games;  // later as many as these say
  for (int batch = 0; batch < 8 && seen_ < enough_rows; ++batch) {
    if (batch > 0) games = samples.games() * (enough_rows - seen_) / seen_ + 1;
    play(samples, games, start, 0, random,
         [&](std::span<const std::uint64_t> rows, std::span<const SampledGames::Place> places,
             const LaneEvaluator& lanes) {
           for (std::size_t at = 0; at < places.size(); ++at) {
             measures.observe(rows.subspan(at * lanes.words(), lanes.words()), places[at].ply);
           }
         });
  }
  measure_ = measures.measure();
}

void CensusCodes::mend(const MendedRows& unwritable) {
  constexpr std::size_t games = 8;
  constexpr std::size_t most_rows = 200'000;
  constexpr std::size_t first_rows = 8;  // played from, then one in so many
  for (std::size_t i = 0; i < unwritable.depths.size(); ++i) {
    const std::size_t words = unwritable.rows.size() / unwritable.depths.size();
    const auto row = std::span(unwritable.rows).subspan(i * words, words);
    const std::uint64_t depth = unwritable.depths[i];
    show(row);
    joiner_.observe(row, depth);
    const std::size_t number = mended_.depths.size();  // the same when it was saved
    if ((number < first_rows || number % first_rows == 0) && seen_ < most_rows) {
      SampledGames samples(game_);
      Random random = Random::stream(1, number + 1);
      play(samples, games, row, depth, random, [](auto&&...) {});
    }
    mended_.rows.insert(mended_.rows.end(), row.begin(), row.end());
    mended_.depths.push_back(depth);
  }
}

}  // namespace orchard::explore
