#include "protocol/known_games.hpp"

#include "base/interruption.hpp"
#include "orchard/opponent.hpp"

namespace orchard::protocol {

KnownGames::KnownGames(LoadOptions limits)
    : limits_([&] {
        limits.stop = over_.get_token();
        return std::move(limits);
      }()) {
  maker_ = std::jthread([this](const std::stop_token& stop) { make_ready(stop); });
}

KnownGames::~KnownGames() {
  over_.request_stop();
  maker_.request_stop();
}

Result<std::shared_ptr<KnownGame>> KnownGames::game_of(const std::string& rules) {
  {
    const std::lock_guard lock(mutex_);
    const auto found = games_.find(rules);
    if (auto known = found == games_.end() ? nullptr : found->second.lock()) return known;
  }
  auto game = Game::from_text(rules, "rules", limits_);
  if (!game) return game.diagnostics();
  const std::lock_guard lock(mutex_);
  std::erase_if(games_, [](const auto& entry) { return entry.second.expired(); });
  std::weak_ptr<KnownGame>& kept = games_[rules];
  if (auto known = kept.lock()) return known;  // by another match meanwhile
  auto made = std::make_shared<KnownGame>(std::move(game).value());
  kept = made;
  recent_.push_back(made);
  if (recent_.size() > most_kept) recent_.pop_front();
  to_make_ready_.push_back(made);
  changed_.notify_all();
  return made;
}

bool KnownGames::wait(const KnownGame& game, std::chrono::steady_clock::time_point until) {
  std::unique_lock lock(mutex_);
  changed_.wait_until(lock, until, [&] { return game.ready.load(); });
  return game.ready;
}

// A choice at the start makes the circuit and all that the ladder makes of it once a game.
void KnownGames::make_ready(const std::stop_token& stop) {
  std::unique_lock lock(mutex_);
  while (changed_.wait(lock, stop, [&] { return !to_make_ready_.empty(); }) &&
         !stop.stop_requested()) {
    const std::shared_ptr<KnownGame> known = to_make_ready_.front().lock();
    to_make_ready_.pop_front();
    if (!known) continue;
    lock.unlock();
    try {
      const Game& game = known->game;
      for (const char* const who : {"greedy", "playouts:16"}) {
        const auto opponent = make_opponent(who, 1).value();
        for (const Role& role : game.roles()) {
          const std::vector<Move> legal = game.legal(game.initial(), role);
          if (legal.size() < 2) continue;
          Situation situation{game, role, game.initial(), legal, 0, {}, {}, nullptr};
          situation.stop = over_.get_token();
          (void)opponent->choose(situation);
        }
      }
      if (!game.terminal(game.initial())) (void)game.to_move(game.initial());
    } catch (const Interrupted&) {
      // It ends.
    } catch (const std::exception&) {
      // Rules that cost too much somewhere: whoever plays them meets that again, and says so.
    }
    known->ready = true;
    lock.lock();
    changed_.notify_all();
  }
}

}  // namespace orchard::protocol
