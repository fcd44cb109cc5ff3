package dachshund.links.network;

import dachshund.core.reach.Outside;
import java.math.BigInteger;
import java.net.InetAddress;
import java.net.NetworkInterface;
import java.net.SocketException;
import java.net.UnknownHostException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * Where connections may go: everywhere, or to the networks and ports of a list; and never into the application's own
 * database. A host is allowed where every address it has is allowed. A line of the list is a network in CIDR notation
 * (RFC 4632), an address or the name of a host, and after a space the ports: one, or two with a hyphen; all without any.
 */
public final class AllowedPlaces implements Outside {

    private static final Pattern LINE = Pattern.compile(
            "(?<where>[\\p{Alnum}._:-]+)(/(?<bits>\\d{1,3}))?(\\s+(?<from>\\d{1,5})(-(?<to>\\d{1,5}))?)?");
    private static final int MOST_PORT = 65_535;

    private final Optional<Own> own;
    private volatile List<Place> allowed = List.of();

    /** The application's own database, which is none to write rows to. */
    public record Own(String host, int port, String database) {}

    /** @param bits of the network; -1 where it is a host's name or address alone */
    private record Place(String where, int bits, int from, int to) {

        private boolean has(InetAddress address, int port) throws UnknownHostException {
            if (port < from || port > to) {
                return false;
            }
            if (bits < 0) {
                return Arrays.asList(InetAddress.getAllByName(where)).contains(address);
            }
            byte[] network = InetAddress.getByName(where).getAddress();
            byte[] asked = address.getAddress();
            int rest = network.length * 8 - bits;
            return network.length == asked.length
                    && new BigInteger(1, network).shiftRight(rest).equals(new BigInteger(1, asked).shiftRight(rest));
        }
    }

    public AllowedPlaces(Optional<Own> own) {
        this.own = own;
    }

    /**
     * From now on only these places; everywhere where the text is blank.
     *
     * @throws IllegalArgumentException with a sentence, where a line cannot be read; nothing is changed then
     */
    public void allow(String lines) {
        allowed = lines.lines()
                .map(String::strip)
                .filter(line -> !line.isEmpty())
                .map(AllowedPlaces::read)
                .toList();
    }

    /**
     * Whether a list would refuse a place; one whose name nobody knows now is not refused. May ask a name server.
     *
     * @throws IllegalArgumentException with a sentence, where a line of it cannot be read
     */
    public static boolean refuses(String lines, String host, int port) {
        AllowedPlaces trial = new AllowedPlaces(Optional.empty());
        trial.allow(lines);
        try {
            trial.check(host, port);
            return false;
        } catch (Refused refused) {
            return true;
        }
    }

    /** Whether there is a list, and what is not on it is refused. */
    public boolean restricts() {
        return !allowed.isEmpty();
    }

    private static Place read(String line) {
        Matcher parts = LINE.matcher(line);
        if (!parts.matches()) {
            throw new IllegalArgumentException(
                    "\"" + line
                            + "\" is no place: write a network such as 10.20.0.0/16, an address or the name of a host, then a space and a port or two with a hyphen.");
        }
        String where = parts.group("where");
        boolean address = where.matches("[0-9.]+|.*:.*");
        int bits = -1;
        if (parts.group("bits") != null) {
            bits = Integer.parseInt(parts.group("bits"));
            if (!address || bits > (where.contains(":") ? 128 : 32)) {
                throw new IllegalArgumentException("\"" + line + "\" has no network before its /.");
            }
        }
        if (address) {
            try {
                InetAddress.getByName(where);
            } catch (UnknownHostException none) {
                throw new IllegalArgumentException("\"" + where + "\" is no IP address.", none);
            }
        }
        int from = parts.group("from") == null ? 1 : Integer.parseInt(parts.group("from"));
        int to = parts.group("to") != null
                ? Integer.parseInt(parts.group("to"))
                : parts.group("from") == null ? MOST_PORT : from;
        if (from < 1 || to > MOST_PORT || from > to) {
            throw new IllegalArgumentException("\"" + line + "\": ports go from 1 to " + MOST_PORT + ".");
        }
        return new Place(where, bits, from, to);
    }

    @Override
    public void check(String host, int port) throws Refused {
        List<Place> now = allowed;
        if (now.isEmpty()) {
            return;
        }
        List<InetAddress> refused = new ArrayList<>();
        for (InetAddress address : addresses(host)) {
            if (now.stream().noneMatch(place -> has(place, address, port))) {
                refused.add(address);
            }
        }
        if (!refused.isEmpty()) {
            String is = refused.stream().map(InetAddress::getHostAddress).collect(Collectors.joining(", "));
            throw new Refused("No connection may go to " + host + ":" + port + (is.equals(host) ? "" : " (" + is + ")")
                    + ": it is not among the addresses that an administrator allows.");
        }
    }

    @Override
    public void check(String host, int port, String database) throws Refused {
        check(host, port);
        if (own.isPresent()
                && port == own.get().port()
                && database.strip().equalsIgnoreCase(own.get().database())
                && isOwn(host)) {
            throw new Refused(
                    "This is Dachshund's own database, which holds people and designs. Rows go to another one.");
        }
    }

    private static boolean has(Place place, InetAddress address, int port) {
        try {
            return place.has(address, port);
        } catch (UnknownHostException unknown) {
            return false; // a name of the list that nobody knows now allows nothing
        }
    }

    /** A host that nobody knows has none: whoever connects says so better. */
    private static List<InetAddress> addresses(String host) {
        try {
            return List.of(
                    InetAddress.getAllByName(host.startsWith("[") ? host.substring(1, host.length() - 1) : host));
        } catch (UnknownHostException unknown) {
            return List.of();
        }
    }

    private boolean isOwn(String host) {
        List<InetAddress> ours = addresses(own.orElseThrow().host());
        boolean here = ours.stream().anyMatch(AllowedPlaces::ofThisMachine);
        return addresses(host).stream().anyMatch(each -> ours.contains(each) || here && ofThisMachine(each));
    }

    private static boolean ofThisMachine(InetAddress address) {
        try {
            return address.isLoopbackAddress()
                    || address.isAnyLocalAddress()
                    || NetworkInterface.getByInetAddress(address) != null;
        } catch (SocketException unknown) {
            return false;
        }
    }
}
