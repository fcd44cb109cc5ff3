package dachshund.core.secret;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dachshund.core.source.SettingField;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

class SealsTest {

    private static final List<SettingField> FIELDS = List.of(
            SettingField.text("host", "Host", "", "127.0.0.1").reaching(),
            SettingField.text("port", "Port", "", "1")
                    .checked(SettingField::port)
                    .reaching(),
            SettingField.text("rows", "Rows", "", "100"),
            SettingField.secret("password", "Password"));

    private final Seals seals = new Seals(new SecretBox(new byte[32]));

    private Map<String, String> sealed() {
        return seals.sealed("pump", FIELDS, Map.of("host", "plant", "password", "secret"));
    }

    private static Map<String, String> with(Map<String, String> settings, String name, String value) {
        Map<String, String> next = new java.util.TreeMap<>(settings);
        next.put(name, value);
        return next;
    }

    @Test
    void itOpensForItsThingAndPlaceAndWhatIsMissingIsAsInANewForm() {
        assertThat(sealed().get("password")).startsWith(SecretBox.MARK);
        assertThat(seals.opened("pump", FIELDS, with(sealed(), "rows", "7")))
                .containsEntry("password", "secret")
                .containsEntry("port", "1")
                .containsEntry("rows", "7");
    }

    @Test
    void itOpensForNoOtherAndIsEmptiedWhereItIsStoredThere() {
        for (Map<String, String> other : List.of(with(sealed(), "host", "elsewhere"), with(sealed(), "port", "2"))) {
            assertThatThrownBy(() -> seals.opened("pump", FIELDS, other)).hasMessageContaining("Type it again");
            assertThat(seals.sealed("pump", FIELDS, other)).containsEntry("password", "");
            assertThat(seals.asks("pump", FIELDS, FIELDS.get(3), sealed(), other))
                    .isTrue();
        }
        assertThatThrownBy(() -> seals.opened("fan", FIELDS, sealed())).hasMessageContaining("Type it again");
        assertThat(seals.asks("pump", FIELDS, FIELDS.get(3), sealed(), with(sealed(), "rows", "7")))
                .isFalse();
        assertThat(seals.asks("pump", FIELDS, FIELDS.get(3), Map.of(), Map.of("host", "x")))
                .isFalse();
    }

    @Test
    void aCopyOpensUnderItsOwnNameAtTheSamePlaceOnly() {
        Map<String, String> copy = seals.copied("pump", "fan", FIELDS, sealed());
        assertThat(seals.opened("fan", FIELDS, copy)).containsEntry("password", "secret");
        assertThatThrownBy(() -> seals.opened("fan", FIELDS, with(copy, "host", "elsewhere")))
                .hasMessageContaining("Type it again");
    }

    @Test
    void whatIsSealedStaysAsItIsAlsoWhereTheKeyIsLostOrALaterVersionHasMoreFields() {
        Map<String, String> before = sealed();
        assertThat(seals.sealed("pump", FIELDS, before)).isEqualTo(before);
        assertThat(new Seals(SecretBox.lost("The key is gone.")).sealed("pump", FIELDS, before))
                .isEqualTo(before);
        List<SettingField> more = Stream.concat(
                        FIELDS.stream(),
                        Stream.of(SettingField.yesNo("tls", "TLS", false).reaching()))
                .toList();
        assertThat(seals.opened("pump", more, before)).containsEntry("password", "secret");
        assertThatThrownBy(() -> seals.opened("pump", more, with(before, "tls", "true")))
                .hasMessageContaining("Type it again");
    }

    /** Versions before named every field that there was, also where it was as in a new form. */
    @Test
    void whatAnEarlierVersionSealedOpensForTheSamePlaceThoughThereAreMoreFieldsNow() {
        String old = new SecretBox(new byte[32]).seal("secret", "pump\nhost=plant\nport=1");
        Map<String, String> before = Map.of("host", "plant", "port", "1", "rows", "5", "password", old);
        List<SettingField> more = Stream.concat(
                        FIELDS.stream(),
                        Stream.of(SettingField.yesNo("tls", "TLS", false).reaching()))
                .toList();
        assertThat(seals.opened("pump", more, before)).containsEntry("password", "secret");
        assertThat(seals.sealed("pump", more, before)).containsEntry("password", old);
        for (Map<String, String> other :
                List.of(with(before, "host", "elsewhere"), with(before, "port", "2"), with(before, "tls", "true"))) {
            assertThatThrownBy(() -> seals.opened("pump", more, other)).hasMessageContaining("Type it again");
            assertThat(seals.sealed("pump", more, other)).containsEntry("password", "");
        }
    }

    @Test
    void aSettingThatIsNotFineIsRefusedHoweverItCame() {
        assertThatThrownBy(() -> seals.opened("pump", FIELDS, with(sealed(), "port", "abc")))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> seals.opened("pump", FIELDS, Map.of("port", "0")))
                .hasMessageContaining("A port is a whole number");
    }
}
