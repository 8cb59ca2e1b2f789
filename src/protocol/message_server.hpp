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

#include "http/listening.hpp"
#include "protocol/player.hpp"

namespace orchard::protocol {

class MessageServer {
 public:
  using Handler = std::function<Reply(const std::string& body)>;

  // `connections`: at once.
  MessageServer(Handler handler, std::size_t most_bytes, std::size_t connections);
  ~MessageServer();

  // Fails with `cannot-listen`.
  Diagnostics listen_on(const http::Address& address);
  // "http://127.0.0.1:9147"
  std::string address() const;
  // Answers until a stop is asked for.
  void run(const std::stop_token& stop);

 private:
  struct Inner;
  std::unique_ptr<Inner> inner_;
};

}  // namespace orchard::protocol
