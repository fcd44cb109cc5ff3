package dachshund.core.secret;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import org.junit.jupiter.api.Test;

class SecretBoxTest {

    private static byte[] key(int first) {
        byte[] key = new byte[32];
        key[0] = (byte) first;
        return key;
    }

    @Test
    void whatIsSealedComesBackWithTheSameKeyAndForTheSameThingOnly() {
        SecretBox box = new SecretBox(key(0));
        String sealed = box.seal("pass wörd", "pump at 10.0.0.1");
        assertThat(sealed)
                .startsWith("sealed:")
                .doesNotContain("pass")
                .doesNotContain("pump")
                .isNotEqualTo(box.seal("pass wörd", "pump at 10.0.0.1"));
        assertThat(box.open(sealed, "pump at 10.0.0.1")).isEqualTo("pass wörd");
        assertThatThrownBy(() -> box.open(sealed, "pump at 10.0.0.2")).isInstanceOf(SecretBox.NotForThis.class);
        assertThatThrownBy(() -> new SecretBox(key(1)).open(sealed, "pump at 10.0.0.1"))
                .hasMessageContaining(SecretBox.id(key(0)))
                .isNotInstanceOf(SecretBox.NotForThis.class);
    }

    @Test
    void aNewKeySealsAndTheOlderOneStillOpens() {
        SecretBox old = new SecretBox(key(0));
        String sealed = old.seal("a", "x");
        byte[] bytes = old.seal(new byte[] {1, 2});
        SecretBox both = new SecretBox(key(1), key(0));
        assertThat(both.open(sealed, "x")).isEqualTo("a");
        assertThat(both.open(bytes)).containsExactly(1, 2);
        assertThat(both.seal("b", "x")).contains(SecretBox.id(key(1)));
        assertThat(new SecretBox(key(1)).open(both.seal("b", "x"), "x")).isEqualTo("b");
    }

    @Test
    void sealsOfTheFirstVersionsAreRead() {
        byte[] bytes = new SecretBox(key(0)).seal("old".getBytes(java.nio.charset.StandardCharsets.UTF_8));
        String first = "sealed:" + java.util.Base64.getEncoder().encodeToString(bytes);
        assertThat(new SecretBox(key(0)).open(first, "whatever")).isEqualTo("old");
    }

    @Test
    void withoutItsKeyItSaysSoAndWhatWasNeverSealedIsStillRead() {
        SecretBox lost = SecretBox.lost("The key is gone.");
        String sealed = new SecretBox(key(0)).seal("secret", "x");
        assertThat(lost.open("127.0.0.1", "x")).isEqualTo("127.0.0.1");
        assertThatThrownBy(() -> lost.open(sealed, "x")).hasMessage("The key is gone.");
        assertThatThrownBy(() -> lost.seal("new", "x")).hasMessage("The key is gone.");
    }

    @Test
    void anAlteredByteIsNoticed() {
        SecretBox box = new SecretBox(new byte[32]);
        byte[] sealed = box.seal(new byte[] {1, 2, 3});
        sealed[sealed.length - 1] ^= 1;
        assertThatThrownBy(() -> box.open(sealed)).hasMessageContaining("altered");
    }

    /** RFC 7914, 11: PBKDF2 with HMAC-SHA-256, its first vector; from memory. */
    @Test
    void aKeyOfAPassphraseIsAsPublished() {
        assertThat(java.util.HexFormat.of()
                        .formatHex(SecretBox.derived(
                                "passwd", "salt".getBytes(java.nio.charset.StandardCharsets.UTF_8), 1)))
                .isEqualTo("55ac046e56e3089fec1691c22544b605f94185216dde0465e68b9d57c20dacbc");
    }
}
