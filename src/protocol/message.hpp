// The messages of the open match protocol: lists in the prefix syntax, read from text and written.
//
//   (info)                                        (preview (RULE…) CLOCK)
//   (start ID ROLE (RULE…) STARTCLOCK PLAYCLOCK)
//   (play ID nil) (play ID (M1 … Mn))             (play ID TURN LASTMOVE (PERCEPT…))
//   (stop ID (M1 … Mn))                           (stop ID TURN LASTMOVE (PERCEPT…))
//   (abort ID)
//
// Read liberally: upper and lower case are the same, `nil` stands for no moves and for no percepts,
// and a list in place of a symbol is one if it has one member. Written strictly. Values; any thread
// may call. Source: the published language and its match protocol.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "orchard/result.hpp"
#include "orchard/term.hpp"

namespace orchard::protocol {

// What a message may cost to read; what is beyond it is refused.
struct MessageLimits {
  std::size_t bytes = 1u << 20;
  std::size_t nesting = 200;
  std::size_t symbols = 100'000;
};

struct Message {
  enum class Kind { info, preview, start, play, stop, abort };
  Kind kind = Kind::info;
  std::string match;         // its ID
  std::string role;          // of a start
  std::string rules;         // of a start or a preview: a form a line
  double start_seconds = 0;  // of a start; of a preview its clock
  double play_seconds = 0;   // of a start
  // Of play and stop:
  bool first = false;       // nothing was played yet
  std::vector<Term> joint;  // the last moves in the order of the roles, in the form that tells all
  // In the form that tells only what the role perceives:
  std::optional<std::uint64_t> turn;
  std::optional<Term> own_move;
  std::vector<Term> percepts;
};

// Fails with `bad-message`.
Result<Message> read_message(std::string text, const MessageLimits& limits = {});

// What a host sends. `rules` is text: forms without comments.
std::string info_message();
std::string start_message(const std::string& match, const std::string& role,
                          const std::string& rules, double start_seconds, double play_seconds);
// `joint` empty: nothing was played yet.
std::string play_message(const std::string& match, const std::vector<Term>& joint);
std::string stop_message(const std::string& match, const std::vector<Term>& joint);
// The form for a role that perceives: `own_move` is none before the first move.
std::string play_message(const std::string& match, std::uint64_t turn,
                         const std::optional<Term>& own_move, const std::vector<Term>& percepts);
std::string stop_message(const std::string& match, std::uint64_t turn,
                         const std::optional<Term>& own_move, const std::vector<Term>& percepts);
std::string abort_message(const std::string& match);

// A reply that is one symbol, in lower case, if it is that: "ready", "done".
std::string symbol_of_reply(const std::string& reply);
// A reply that is a move. Fails with `bad-message`.
Result<Term> move_of_reply(const std::string& reply, const MessageLimits& limits = {});

}  // namespace orchard::protocol
