#include "protocol/player.hpp"

#include <absl/cleanup/cleanup.h>

#include "base/interruption.hpp"
#include "orchard/random.hpp"
#include "protocol/player_inner.hpp"

namespace orchard::protocol {

Player::Player(PlayerOptions options) : inner_(std::make_unique<Inner>(std::move(options))) {}

Player::~Player() {
  inner_->over.request_stop();
  for (const auto& [id, match] : inner_->matches) {
    const std::lock_guard lock(match->mutex);
    match->give_up_thinking();
  }
}

PlayerCounts Player::counts() const {
  return {inner_->begun, inner_->ended,      inner_->given_up,
          inner_->moves, inner_->unfinished, inner_->refused};
}

Reply Player::answer(const std::string& text) {
  const Clock::time_point arrived = Clock::now();
  const auto message = read_message(text, inner_->options.messages);
  if (!message) {
    constexpr int bad_request = 400;
    return inner_->refuse(bad_request, message.diagnostics().items().front().message);
  }
  return inner_->answer(*message, text, arrived);
}

Reply Player::Inner::answer(const Message& message, const std::string& text,
                            Clock::time_point arrived) {
  switch (message.kind) {
    case Message::Kind::info:
      return info();
    case Message::Kind::preview:
      return preview(message);
    case Message::Kind::start:
      return start(message, arrived);
    case Message::Kind::play:
      return play(message, text, arrived);
    case Message::Kind::stop:
      return stop(message);
    case Message::Kind::abort:
      break;
  }
  return abort(message);
}

Reply Player::Inner::refuse(int status, const std::string& why) {
  ++refused;
  tell("refused: " + why, true);
  return {status, why};
}

Reply Player::Inner::info() {
  give_up_silent_ones();
  const std::lock_guard lock(mutex);
  const bool full = matches.size() + being_started >= options.matches;
  return {200, fmt::format("((name {}) (status {}))", options.name, full ? "busy" : "available")};
}

// The rules within the time; a limit where there is not enough.
Result<std::shared_ptr<KnownGame>> Player::Inner::read(const std::string& rules, double seconds) {
  try {
    Budget budget;
    budget.seconds = std::max(seconds, 1e-3);
    const Interruption interruption(budget);
    return games.game_of(rules);
  } catch (const Interrupted&) {
    return plain_error("too-slow", "reading the rules takes longer than the clock of the start",
                       "give more time");
  }
}

Reply Player::Inner::preview(const Message& message) {
  const double clock = message.start_seconds;
  const auto game = read(message.rules, clock - margin_of(clock));
  if (!game) return refuse(422, game.diagnostics().items().front().message);
  return {200, "ready"};
}

Reply Player::Inner::start(const Message& message, Clock::time_point arrived) {
  const double clock = message.start_seconds;
  const auto until = arrived + as_duration(clock - margin_of(clock));
  give_up_silent_ones();
  std::uint64_t seed = 0;
  {
    const std::lock_guard lock(mutex);
    if (const auto found = matches.find(message.match); found != matches.end()) {
      const Message& first = found->second->start;
      if (first.role == message.role && first.rules == message.rules) return {200, "ready"};
      ++refused;
      return {409,
              fmt::format("the match {} goes on, with another role or other rules", message.match)};
    }
    if (matches.size() + being_started >= options.matches) return {200, "busy"};
    ++being_started;
    seed = Random::stream(options.seed, next_seed++).below(~0ULL);
  }
  // However it ends, by exceptions too: a place that was not given back would be lost.
  const absl::Cleanup no_longer = [this] {
    const std::lock_guard lock(mutex);
    --being_started;
  };
  const auto fail = [&](const Diagnostics& faults) {
    const Diagnostic& first = faults.items().front();
    return refuse(422, fmt::format("{}: {}", message.match, first.message));
  };
  const auto game = read(message.rules, clock - margin_of(clock));
  if (!game) return fail(game.diagnostics());
  const auto role = (*game)->game.role(message.role);
  if (!role) {
    Diagnostics faults;
    faults.add(plain_error("bad-message", message.role + " is no role of these rules", "name one"));
    return fail(faults);
  }
  auto opponent = options.make((*game)->game, *role, seed);
  if (!opponent) return fail(opponent.diagnostics());
  auto match =
      std::make_shared<OpenMatch>(message, *game, *role, std::move(opponent).value(), seed);
  games.wait(**game, until);
  warm_up(match, until);
  {
    // The same message may have come twice: the first match stays.
    const std::lock_guard lock(mutex);
    matches.try_emplace(message.match, std::move(match));
  }
  ++begun;
  tell(fmt::format("{} begins: {} of {}", message.match, message.role, (*game)->game.digest()));
  return {200, "ready"};
}

std::shared_ptr<OpenMatch> Player::Inner::find(const std::string& id) {
  const std::lock_guard lock(mutex);
  const auto found = matches.find(id);
  return found == matches.end() ? nullptr : found->second;
}

// A match that ends: nobody needs what is still thought about.
std::shared_ptr<OpenMatch> Player::Inner::take_out(const std::string& id) {
  std::shared_ptr<OpenMatch> match;
  {
    const std::lock_guard lock(mutex);
    const auto found = matches.find(id);
    if (found == matches.end()) return nullptr;
    match = found->second;
    matches.erase(found);
  }
  ++ended;
  const std::lock_guard lock(match->mutex);
  match->over = match->begun = true;
  match->give_up_thinking();
  return match;
}

void Player::Inner::give_up_silent_ones() {
  const std::lock_guard lock(mutex);
  const Clock::time_point now = Clock::now();
  std::erase_if(matches, [&](const auto& entry) {
    OpenMatch& match = *entry.second;
    const std::unique_lock busy(match.mutex, std::try_to_lock);
    if (!busy) return false;
    const double patience =
        options.idle_seconds + match.start.start_seconds + match.start.play_seconds;
    if (now - match.heard < as_duration(patience)) return false;
    match.over = true;
    match.give_up_thinking();
    ++given_up;
    tell(fmt::format("{} was given up: nothing was heard of it", entry.first), true);
    return true;
  });
}

Reply Player::Inner::play(const Message& message, const std::string& text,
                          Clock::time_point arrived) {
  const std::shared_ptr<OpenMatch> match = find(message.match);
  if (!match) return refuse(404, fmt::format("there is no match {}", message.match));
  const double clock = match->start.play_seconds;
  ++waiting;
  const absl::Cleanup answered = [this] { --waiting; };
  match->begun = true;
  const auto until = arrived + as_duration(clock - margin_now(clock));
  std::shared_ptr<Thought> thought;
  {
    const std::lock_guard lock(match->mutex);
    match->heard = arrived;
    const bool again = text == match->last_message;
    if (again && match->thought && match->last_answer.empty()) {
      thought = match->thought;  // asked again while it is thought about
    } else {
      // Half of the time for where play may stand, the rest for what to do there.
      const std::chrono::duration<double> left = until - Clock::now();
      if (Diagnostics faults = match->at.take(message, left.count() / 2); !faults.empty()) {
        // Said once more, because the answer was lost.
        if (again && !match->last_answer.empty()) return {200, match->last_answer};
        return refuse(409, fmt::format("{}: {}", message.match, faults.items().front().message));
      }
      // The first message tells nothing that would not fit again: it is known by its text alone.
      if (again && message.first && !match->last_answer.empty()) return {200, match->last_answer};
      match->last_message = text;
      match->last_answer.clear();
      match->give_up_thinking();
      if (match->at.over()) return refuse(409, fmt::format("{} is over", message.match));
      Choice choice = match->at.choice();
      if (choice.legal.empty()) {
        return refuse(409, fmt::format("{}: there is no legal move", message.match));
      }
      if (choice.legal.size() == 1) {
        ++moves;
        match->last_answer = choice.legal.front().to_string();
        return {200, match->last_answer};
      }
      thought = std::make_shared<Thought>(std::move(choice));
      match->thought = thought;
      thinkers->add(
          until, [this, match, thought](Clock::time_point share) { think(match, thought, share); });
    }
  }
  std::optional<Move> move = thought->wait(until);
  const std::lock_guard lock(match->mutex);
  if (match->over) return refuse(409, fmt::format("{} was ended meanwhile", message.match));
  if (match->thought != thought) {
    return refuse(409, fmt::format("{}: play has gone on meanwhile", message.match));
  }
  if (!match->last_answer.empty()) return {200, match->last_answer};
  if (!move) {
    const auto& legal = thought->choice().legal;
    move = legal[match->random.below(legal.size())];
    ++unfinished;
    tell(fmt::format("{}: nothing was known in time at ply {}; a random move is made",
                     message.match, thought->choice().ply),
         true);
    thought->give_up();
  }
  ++moves;
  match->last_answer = move->to_string();
  if (options.think_ahead) think_ahead(match, thought->choice(), *move);
  return {200, match->last_answer};
}

Reply Player::Inner::stop(const Message& message) {
  const std::shared_ptr<OpenMatch> match = take_out(message.match);
  if (!match) return refuse(404, "there is no match " + message.match);
  const std::lock_guard lock(match->mutex);
  constexpr double a_moment = 0.5;  // seconds: nobody needs to know any more
  if (Diagnostics faults = match->at.take(message, a_moment); !faults.empty()) {
    tell(fmt::format("{} ends with what was not played: {}", message.match,
                     faults.items().front().message),
         true);
    return {200, "done"};
  }
  if (match->at.over()) {
    // What it means to the opponent is not the host's to wait for.
    const auto some_time = Clock::now() + as_duration(options.idle_seconds);
    thinkers->add(some_time, [this, match, some_time](Clock::time_point) {
      use_opponents(*match, some_time, [&] {
        const std::lock_guard state(match->mutex);
        match->opponent->match_ended(match->at.game(), match->at.role(), match->at.position());
      });
    });
    std::string result;
    const Game& game = match->at.game();
    if (!match->at.view()) result = ": " + describe(game, outcome_of(game, match->at.position()));
    tell(fmt::format("{} ends after {} plies{}", message.match, match->at.ply(), result));
  } else {
    tell(fmt::format("{} was stopped after {} plies", message.match, match->at.ply()));
  }
  return {200, "done"};
}

Reply Player::Inner::abort(const Message& message) {
  const std::shared_ptr<OpenMatch> match = take_out(message.match);
  if (!match) return refuse(404, "there is no match " + message.match);
  const std::lock_guard lock(match->mutex);
  tell(fmt::format("{} was broken off by its host", message.match));
  return {200, "aborted"};
}

}  // namespace orchard::protocol
