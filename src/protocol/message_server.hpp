// Messages over HTTP: every POST is handed on, and what comes of it is the reply.
//
// Listens where it is told to, and nowhere else. A connection has a thread of its own, up to a
// bound; further ones wait. Slow clients, half-open connections and bodies beyond the bound are
// given up. Pages in browsers are refused: they say where they come from, hosts of matches do not.
#pragma once

#include <functional>
#include <memory>
#include <stop_token>
#include <string>

#include "orchard/diagnostic.hpp"
#include "protocol/player.hpp"

namespace orchard::protocol {

// Where to listen: "127.0.0.1:9147", "9147" (of this machine alone), "0.0.0.0:9147".
struct Address {
  std::string host = "127.0.0.1";
  int port = 0;  // 0: any free one
};
// Fails with `wrong-call`.
Result<Address> read_address(const std::string& text);

class MessageServer {
 public:
  using Handler = std::function<Reply(const std::string& body)>;

  // `connections`: at once.
  MessageServer(Handler handler, std::size_t most_bytes, std::size_t connections);
  ~MessageServer();

  // Fails with `cannot-listen`.
  Diagnostics listen_on(const Address& address);
  // "http://127.0.0.1:9147"
  std::string address() const;
  // Answers until a stop is asked for.
  void run(const std::stop_token& stop);

 private:
  struct Inner;
  std::unique_ptr<Inner> inner_;
};

}  // namespace orchard::protocol
