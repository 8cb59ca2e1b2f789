#include "http/listening.hpp"

#include <fmt/core.h>
#include <httplib.h>

#include <charconv>

namespace orchard::http {

Result<Address> read_address(const std::string& text) {
  Address address;
  std::string_view rest = text;
  if (rest.starts_with("http://")) rest.remove_prefix(7);
  while (rest.ends_with('/')) rest.remove_suffix(1);
  const std::size_t colon = rest.rfind(':');
  const std::string_view port = colon == std::string_view::npos ? rest : rest.substr(colon + 1);
  if (colon != std::string_view::npos) address.host = std::string(rest.substr(0, colon));
  constexpr int most = 65535;
  const auto [end, error] = std::from_chars(port.data(), port.data() + port.size(), address.port);
  const bool right = error == std::errc{} && end == port.data() + port.size() &&
                     address.port >= 0 && address.port <= most && !address.host.empty();
  if (!right) {
    return plain_error("wrong-call", fmt::format("{} is no address", text),
                       "write a port, such as 9147, or an address with one: 127.0.0.1:9147");
  }
  return address;
}

std::string text_of(const Address& address) {
  return fmt::format("http://{}:{}", address.host, address.port);
}

Diagnostics listen_on(httplib::Server& server, Address& address) {
  Diagnostics faults;
  int listening = -1;
  server.set_socket_options([&listening](int socket) {
    const int yes = 1;
    (void)::setsockopt(socket, SOL_SOCKET, SO_REUSEADDR, &yes, sizeof yes);
    listening = socket;
  });
  const int port = address.port == 0 ? server.bind_to_any_port(address.host.c_str())
                   : server.bind_to_port(address.host.c_str(), address.port) ? address.port
                                                                             : -1;
  if (port <= 0) {
    faults.add(plain_error("cannot-listen",
                           fmt::format("{}:{} cannot be used", address.host, address.port),
                           "give another port; any free one is taken for port 0"));
    return faults;
  }
  address.port = port;
  server.set_socket_options([](int) {});  // `listening` ends here
  constexpr int waiting = 1024;
  (void)::listen(listening, waiting);
  return faults;
}

}  // namespace orchard::http
