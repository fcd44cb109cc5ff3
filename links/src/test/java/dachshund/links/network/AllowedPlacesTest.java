package dachshund.links.network;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.reach.Outside;
import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Networks as in RFC 4632 (CIDR); the addresses are those of RFC 5737 and RFC 3849, which are for examples. */
class AllowedPlacesTest {

    private static boolean allows(String list, String host, int port) {
        AllowedPlaces places = new AllowedPlaces(Optional.empty());
        places.allow(list);
        try {
            places.check(host, port);
            return true;
        } catch (Outside.Refused refused) {
            assertThat(refused).hasMessageContaining(host).hasMessageContaining("administrator");
            return false;
        }
    }

    @ParameterizedTest
    @CsvSource({
        "'', 198.51.100.7, 1, true",
        "192.0.2.0/24, 192.0.2.255, 4840, true",
        "192.0.2.0/24, 192.0.3.0, 4840, false",
        "192.0.2.0/25, 192.0.2.128, 4840, false",
        "192.0.2.130/25, 192.0.2.129, 4840, true",
        "192.0.2.7, 192.0.2.7, 502, true",
        "192.0.2.7, 192.0.2.8, 502, false",
        "192.0.2.7 502, 192.0.2.7, 502, true",
        "192.0.2.7 502, 192.0.2.7, 503, false",
        "192.0.2.7 500-510, 192.0.2.7, 510, true",
        "192.0.2.7 500-510, 192.0.2.7, 511, false",
        "0.0.0.0/0, 203.0.113.9, 1, true",
        "0.0.0.0/0, 2001:db8::1, 1, false",
        "2001:db8::/32, 2001:db8:ffff::1, 1, true",
        "2001:db8::/32, 2001:db9::1, 1, false",
        "localhost 3306, 127.0.0.1, 3306, true",
        "localhost 3306, 127.0.0.2, 3306, false",
        "nobody.invalid, 192.0.2.7, 1, false"
    })
    void aPlaceIsOnTheListOrRefused(String list, String host, int port, boolean allowed) {
        assertThat(allows(list, host, port)).isEqualTo(allowed);
    }

    @Test
    void oneOfSeveralLinesIsEnough() {
        assertThat(allows("192.0.2.0/24 502\n\n 198.51.100.1 1883 \n", "198.51.100.1", 1883))
                .isTrue();
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "192.0.2.0/33",
                "example.org/8",
                "192.0.2.1 0",
                "192.0.2.1 70000",
                "192.0.2.1 9-8",
                "a b c",
                "300.1.1.1",
                "#"
            })
    void whatIsNoPlaceIsSaidAndNothingIsChanged(String line) {
        AllowedPlaces places = new AllowedPlaces(Optional.empty());
        places.allow("192.0.2.7");
        assertThatThrownBy(() -> places.allow("192.0.2.9\n" + line))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageEndingWith(".");
        assertThatThrownBy(() -> places.check("192.0.2.9", 1)).isInstanceOf(Outside.Refused.class);
    }

    @ParameterizedTest
    @ValueSource(strings = {"127.0.0.1", "localhost", "127.8.9.10", "0.0.0.0", "[::1]"})
    void theOwnDatabaseIsRefusedByEveryNameOfThisMachine(String host) throws Exception {
        AllowedPlaces places = new AllowedPlaces(Optional.of(new AllowedPlaces.Own("127.0.0.1", 3306, "dachshund")));
        assertThatThrownBy(() -> places.check(host, 3306, " Dachshund")).hasMessageContaining("own database");
        places.check(host, 3307, "dachshund");
        places.check(host, 3306, "records");
        places.check("192.0.2.7", 3306, "dachshund");
    }
}
