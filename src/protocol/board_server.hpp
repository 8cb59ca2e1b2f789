// The boards of hosted matches on a page, live: for onlookers on this machine.
//
// Shows what is played now and what came out. Where something is hidden from a role, a board is
// shown when the match is over: whoever looks on may sit beside a player. The page can only look.
// `show` and `ended` may be called by any thread.
#pragma once

#include <map>
#include <memory>
#include <string>

#include "orchard/picture.hpp"
#include "protocol/referee.hpp"

namespace orchard::protocol {

class BoardServer {
 public:
  BoardServer(Game game, Picture picture);
  ~BoardServer();
  BoardServer(const BoardServer&) = delete;

  // Listens on this machine from now on; any free port if it is 0. Fails with `cannot-listen`.
  Diagnostics begin(int port);
  std::string address() const;

  void show(std::uint64_t number, const Match& match,
            const std::map<std::string, std::string>& names);
  void ended(std::uint64_t number, const HostedMatch& match);

 private:
  struct Inner;
  std::unique_ptr<Inner> inner_;
};

}  // namespace orchard::protocol
