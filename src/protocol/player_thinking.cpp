// How a player thinks: when it is asked, before the first move, and while others choose.
#include <absl/cleanup/cleanup.h>

#include "base/interruption.hpp"
#include "protocol/player_inner.hpp"

namespace orchard::protocol {

// Opponents are used by one thread at a time; whoever is still at an older choice was asked to give
// up. Nothing that an opponent throws goes further: rules of strangers may cost too much anywhere.
void Player::Inner::use_opponents(OpenMatch& match, Clock::time_point until,
                                  const std::function<void()>& use) {
  if (!match.thinking.try_acquire_until(until)) return;
  const absl::Cleanup done = [&] { match.thinking.release(); };
  try {
    use();
  } catch (const Interrupted&) {
    return;  // that was all the time there was
  } catch (const std::exception& fault) {
    tell(fmt::format("{}: an opponent failed: {}", match.start.match, fault.what()), true);
  }
}

Situation Player::Inner::situation_of(const Choice& choice, Clock::time_point deadline,
                                      std::stop_token stop) const {
  Situation situation = choice.situation();
  situation.deadline = deadline;
  situation.stop = std::move(stop);
  situation.memory_bytes = options.match_bytes;
  return situation;
}

// The first look at a game is the longest; the clock of the start has room for it.
void Player::Inner::warm_up(const std::shared_ptr<OpenMatch>& match, Clock::time_point until) {
  if (!match->game->ready) return;
  const auto choice = std::make_shared<Choice>(match->at.choice());
  if (choice->legal.empty()) return;
  thinkers->add(until, [this, match, choice](Clock::time_point share) {
    constexpr auto most = std::chrono::milliseconds(20);
    const Clock::time_point deadline = std::min(share, Clock::now() + most);
    use_opponents(*match, Clock::now(), [&] {
      if (match->begun) return;
      match->opponent->think_ahead(situation_of(*choice, deadline, over.get_token()));
    });
  });
}

// On a thinker's thread.
void Player::Inner::think(const std::shared_ptr<OpenMatch>& match,
                          const std::shared_ptr<Thought>& thought, Clock::time_point until) {
  use_opponents(*match, until, [&] {
    // Nobody ends to the millisecond.
    constexpr double used = 0.9;
    const Clock::time_point now = Clock::now();
    const auto deadline = now + std::chrono::duration_cast<Clock::duration>(used * (until - now));
    Budget budget;
    budget.stop = thought->stop();
    const Interruption interruption(budget);
    Opponent& who = match->game->ready ? *match->opponent : *match->by_evaluator;
    const Move move = who.choose(situation_of(thought->choice(), deadline, thought->stop()));
    const auto& legal = thought->choice().legal;
    if (std::ranges::find(legal, move) != legal.end()) thought->fulfil(move);
  });
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
    use_opponents(*match, Clock::now(), [&] {
      if (thought->stop().stop_requested()) return;
      match->opponent->think_ahead(situation_of(thought->choice(), share, thought->stop()));
    });
  });
}

}  // namespace orchard::protocol
