// The desk over HTTP, for pages on this machine.
//
// Safe against other pages and other users: it listens on loopback only, the address holds a random
// token, and who asks must have come by that address (`Host`, `Origin`). Pages are forbidden to
// load anything from elsewhere.
#pragma once

#include <functional>
#include <memory>
#include <stop_token>
#include <string>

#include "desk/desk.hpp"

namespace orchard::desk {

class Server {
 public:
  explicit Server(Desk& desk);
  ~Server();

  // Takes a port, any free one if it is 0. Fails with `cannot-listen`.
  Diagnostics listen_on(int port);
  // "http://127.0.0.1:4321/TOKEN/"
  std::string address() const;
  // Answers until a stop is asked for.
  void run(const std::stop_token& stop);

 private:
  struct Inner;
  std::unique_ptr<Inner> inner_;
};

}  // namespace orchard::desk
