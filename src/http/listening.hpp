// Where a server of this project listens: on this machine alone, unless an address says otherwise.
#pragma once

#include <string>

#include "orchard/result.hpp"

namespace httplib {
class Server;
}

namespace orchard::http {

// "127.0.0.1:9147", "9147" (of this machine alone), "http://127.0.0.1:9147", "0.0.0.0:9147".
struct Address {
  std::string host = "127.0.0.1";
  int port = 0;  // 0: any free one
};
// Fails with `wrong-call`.
Result<Address> read_address(const std::string& text);
// "http://127.0.0.1:9147"
std::string text_of(const Address& address);

// Has the server take the address; a port 0 becomes the one that was taken. Fails with
// `cannot-listen`. The library lets five connections wait; here it is a thousand, for what is
// turned away comes again a second later.
Diagnostics listen_on(httplib::Server& server, Address& address);

}  // namespace orchard::http
