#include "protocol/remote_seat.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <chrono>
#include <thread>

#include "protocol/message.hpp"
#include "syntax/reader.hpp"
#include "syntax/tree.hpp"

namespace orchard::protocol {
namespace {

using Clock = std::chrono::steady_clock;

constexpr auto between_tries = std::chrono::milliseconds(50);

double since(Clock::time_point begun) {
  return std::chrono::duration<double>(Clock::now() - begun).count();
}

std::vector<Term> terms_of(const JointMove& joint) {
  std::vector<Term> terms;
  for (const Move& move : joint) terms.push_back(move.term());
  return terms;
}

}  // namespace

std::string rules_from(const std::string& rules, const Position& start) {
  Diagnostics ignored;  // they were read before
  const syntax::Tree tree = syntax::read(syntax::Source("rules", rules), {}, ignored);
  std::string text;
  for (const syntax::NodeIndex form : tree.forms()) {
    std::string_view relation = tree.head(form);
    if (relation == "<=") relation = tree.head(tree.children(form).at(1));
    if (relation == "init") continue;
    text += tree.canonical_text(form, form + tree[form].size) + "\n";
  }
  for (const Term& fluent : start.fluents()) text += fmt::format("(init {})\n", fluent.to_string());
  return text;
}

RemoteSeat::RemoteSeat(RemotePlayer player, Role role, Terms terms)
    : player_(std::move(player)), role_(std::move(role)), terms_(std::move(terms)) {}

// The message behind so many plies.
std::string RemoteSeat::told(const Match& match, std::uint64_t ply, bool stop) const {
  const bool first = ply == first_;
  if (!tells_percepts(match)) {
    const std::vector<Term> joint = first ? std::vector<Term>() : terms_of(match.joints()[ply - 1]);
    return stop ? stop_message(id_, joint) : play_message(id_, joint);
  }
  std::optional<Term> own;
  std::vector<Term> percepts;
  if (!first) {
    const JointMove& joint = match.joints()[ply - 1];
    own = joint[role_].term();
    percepts = match.game().percepts(match.positions()[ply - 1], joint, role_).value();
  }
  return stop ? stop_message(id_, ply - first_, own, percepts)
              : play_message(id_, ply - first_, own, percepts);
}

// Where nothing is hidden the match begins at the present position; else the player is told all it
// has perceived, without waiting for moves that were made long ago.
bool RemoteSeat::begin_once(const Match& match, double seconds) {
  id_ = times_ == 0 ? terms_.match : fmt::format("{}-{}", terms_.match, times_ + 1);
  first_ = tells_percepts(match) ? 0 : match.ply();
  const Position& start = match.positions()[first_];
  const bool other_start = !(start == match.game().initial());
  const std::string message =
      start_message(id_, role_.name(), other_start ? rules_from(terms_.rules, start) : terms_.rules,
                    terms_.start_seconds, terms_.play_seconds);
  const auto answer = player_.send(message, seconds);
  if (answer.kind != RemotePlayer::Answer::Kind::reply || symbol_of_reply(answer.text) != "ready") {
    return false;
  }
  ++times_;
  constexpr double no_need_to_wait = 0.05;  // seconds
  for (std::uint64_t ply = first_; ply < match.ply(); ++ply) {
    (void)player_.send(told(match, ply, false), no_need_to_wait);
  }
  return true;
}

bool RemoteSeat::begin(const Match& match, double seconds) {
  const auto begun = Clock::now();
  begun_ = false;
  while (!begun_ && !terms_.stop.stop_requested()) {
    const double left = seconds - since(begun);
    if (left <= 0) return false;
    begun_ = begin_once(match, left);
    if (!begun_) std::this_thread::sleep_for(between_tries);
  }
  return begun_;
}

RemoteSeat::Said RemoteSeat::ask(const Match& match) {
  using Kind = RemotePlayer::Answer::Kind;
  const auto begun = Clock::now();
  const double clock = terms_.play_seconds;
  Said said;
  said.why = "unreachable";
  for (bool again = false;; again = true) {
    const double left = clock - since(begun);
    if (left <= 0 || terms_.stop.stop_requested()) break;
    if (again || !begun_) {
      // It may be back before the clock is over.
      if (again) std::this_thread::sleep_for(between_tries);
      begun_ = begin_once(match, std::max(1e-3, clock - since(begun)));
      if (!begun_) continue;
    }
    const double rest = clock - since(begun);
    if (rest <= 0) break;  // telling it all took the whole clock; it knows the match now
    const auto answer = player_.send(told(match, match.ply(), false), rest);
    said.seconds = since(begun);
    said.text = answer.text;
    if (answer.kind == Kind::late) {
      said.why = "late";
      return said;
    }
    if (answer.kind == Kind::reply) {
      if (const auto move = move_of_reply(answer.text)) {
        said.move = *move;
      } else {
        said.why = "unreadable";
      }
      return said;
    }
    constexpr int not_found = 404;
    if (answer.kind == Kind::refused && answer.status != not_found) {
      said.why = "refused";
      return said;
    }
    begun_ = false;  // gone, or it knows nothing of the match
  }
  said.seconds = since(begun);
  return said;
}

void RemoteSeat::end(const Match& match) {
  constexpr double a_moment = 1;
  if (begun_) (void)player_.send(told(match, match.ply(), true), a_moment);
}

void RemoteSeat::abort() {
  constexpr double a_moment = 0.05;
  if (begun_) (void)player_.send(abort_message(id_), a_moment, true);
}

}  // namespace orchard::protocol
