// How a player thinks: when it is asked, before the first move, and while others choose.
#include <absl/cleanup/cleanup.h>

#include <stdexcept>

#include "base/interruption.hpp"
#include "protocol/player_inner.hpp"

namespace orchard::protocol {

// The first look at a game is the longest; the clock of the start has room for it.
void Player::Inner::warm_up(const std::shared_ptr<OpenMatch>& match, Clock::time_point until) {
  if (!match->game->ready) return;
  const auto choice = std::make_shared<Choice>(match->at.choice());
  if (choice->legal.empty()) return;
  thinkers->add(until, [this, match, choice](Clock::time_point share) {
    constexpr auto most = std::chrono::milliseconds(20);
    if (!match->thinking.try_acquire()) return;
    const absl::Cleanup done = [&] { match->thinking.release(); };
    if (match->begun) return;
    Situation situation = choice->situation();
    situation.deadline = std::min(share, Clock::now() + most);
    situation.stop = over.get_token();
    situation.memory_bytes = options.match_bytes;
    try {
      match->opponent->think_ahead(situation);
    } catch (const Interrupted&) {
      return;  // that was all the time there was
    }
  });
}

// On a thinker's thread.
void Player::Inner::think(const std::shared_ptr<OpenMatch>& match,
                          const std::shared_ptr<Thought>& thought, Clock::time_point until) {
  // Whoever is still at an older choice was asked to give up.
  if (!match->thinking.try_acquire_until(until)) return;
  const absl::Cleanup done = [&] { match->thinking.release(); };
  Situation situation = thought->choice().situation();
  // Nobody ends to the millisecond.
  constexpr double used = 0.9;
  const Clock::time_point now = Clock::now();
  situation.deadline = now + std::chrono::duration_cast<Clock::duration>(used * (until - now));
  situation.stop = thought->stop();
  situation.memory_bytes = options.match_bytes;
  try {
    Budget budget;
    budget.stop = thought->stop();
    const Interruption interruption(budget);
    Opponent& who = match->game->ready ? *match->opponent : *match->by_evaluator;
    const Move move = who.choose(situation);
    const auto& legal = thought->choice().legal;
    if (std::ranges::find(legal, move) != legal.end()) thought->fulfil(move);
  } catch (const Interrupted&) {
    return;  // given up
  } catch (const std::exception& fault) {
    tell(fmt::format("choosing failed: {}", fault.what()), true);
  }
}

// While the others choose, if it is clear where they do so: everybody else has waited.
void Player::Inner::think_ahead(const std::shared_ptr<OpenMatch>& match, const Choice& made,
                                const Move& own) {
  if (made.view || !match->game->ready) return;
  const auto joint = made.game.joint_move(made.position, made.role, own);
  if (!joint) return;
  const auto next = made.game.next(made.position, *joint);
  if (!next || made.game.terminal(*next)) return;
  Choice choice{made.game, made.role, *next, made.game.legal(*next, made.role), made.ply + 1};
  if (choice.legal.empty()) return;
  auto thought = std::make_shared<Thought>(std::move(choice));
  match->ahead = thought;
  const auto until = Clock::now() + as_duration(match->start.play_seconds);
  idle_thinkers->add(until, [this, match, thought](Clock::time_point share) {
    if (!match->thinking.try_acquire()) return;
    const absl::Cleanup done = [&] { match->thinking.release(); };
    if (thought->stop().stop_requested()) return;
    Situation situation = thought->choice().situation();
    situation.deadline = share;
    situation.stop = thought->stop();
    situation.memory_bytes = options.match_bytes;
    try {
      match->opponent->think_ahead(situation);
    } catch (const Interrupted&) {
      return;  // the others have chosen
    }
  });
}

}  // namespace orchard::protocol
