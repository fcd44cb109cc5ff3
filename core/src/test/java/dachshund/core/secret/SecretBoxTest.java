package dachshund.core.secret;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import org.junit.jupiter.api.Test;

class SecretBoxTest {

    @Test
    void whatIsSealedComesBackWithTheSameKeyOnly() {
        SecretBox box = new SecretBox(new byte[32]);
        String sealed = box.seal("pass wörd");
        assertThat(sealed).startsWith("sealed:").doesNotContain("pass").isNotEqualTo(box.seal("pass wörd"));
        assertThat(box.open(sealed)).isEqualTo("pass wörd");
        byte[] other = new byte[32];
        other[0] = 1;
        assertThatThrownBy(() -> new SecretBox(other).open(sealed)).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void withoutItsKeyItSaysSoAndWhatWasNeverSealedIsStillRead() {
        SecretBox lost = SecretBox.lost("The key is gone.");
        String sealed = new SecretBox(new byte[32]).seal("secret");
        assertThat(lost.open("127.0.0.1")).isEqualTo("127.0.0.1");
        assertThatThrownBy(() -> lost.open(sealed)).hasMessage("The key is gone.");
        assertThatThrownBy(() -> lost.seal("new")).hasMessage("The key is gone.");
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
