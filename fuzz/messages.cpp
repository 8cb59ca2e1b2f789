// Any text as a message of the match protocol, for a player in the middle of a match: every message
// is answered, and the match goes on. Moves that are read are written and read back the same.
#include <cstdint>
#include <cstdlib>

#include "protocol/player.hpp"

namespace {

using namespace orchard;
using namespace orchard::protocol;

const char* const digging =
    "(role east) (role west) (bed 1) (bed 2) (init (free 1)) (init (free 2)) (init (turn east)) "
    "(after east west) (after west east) "
    "(<= (legal ?w (dig ?b)) (true (turn ?w)) (true (free ?b))) "
    "(<= (legal ?w wait) (role ?w) (not (true (turn ?w)))) "
    "(<= (next (turn ?n)) (true (turn ?w)) (after ?w ?n)) "
    "(<= dug (does ?w (dig ?b))) "
    "(<= (next (free ?b)) (true (free ?b)) (not dug)) "
    "(<= terminal (not (true (free 1)))) (<= (goal ?w 50) (role ?w))";

Player& player() {
  static Player one([] {
    PlayerOptions options;
    options.make = [](const Game&, const Role&, std::uint64_t seed) {
      return make_opponent("random", seed);
    };
    options.matches = 4;
    options.idle_seconds = 0;
    options.rules.circuit_bytes = 0;
    options.rules.join_steps = 1'000'000;
    options.rules.instances = 10'000;
    return options;
  }());
  return one;
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const std::string text(reinterpret_cast<const char*>(data), size);
  const auto message = read_message(text);
  if (message && message->kind == Message::Kind::play && !message->joint.empty()) {
    const auto again = read_message(play_message(message->match, message->joint));
    if (!again || again->joint != message->joint) __builtin_trap();
  }
  // What a stranger's clock would take is not waited for.
  if (message && message->play_seconds + message->start_seconds > 0.2) return 0;
  const Reply reply = player().answer(text);
  if (reply.status != 200 && reply.body.empty()) __builtin_trap();
  // A match of its own is played as if nothing had been said.
  if (player().answer(start_message("own", "west", digging, 0.1, 0.1)).status != 200) return 0;
  if (player().answer("(play own nil)").body != "wait") __builtin_trap();
  if (player().answer("(abort own)").body != "aborted") __builtin_trap();
  return 0;
}
