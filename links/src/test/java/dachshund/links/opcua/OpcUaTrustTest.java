package dachshund.links.opcua;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.cert.X509Certificate;
import java.util.Arrays;
import java.util.List;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Certificates in files that a death, a full disk or a flipped bit has left as nobody wrote them. */
class OpcUaTrustTest {

    @TempDir
    static Path kept;

    @TempDir
    private Path folder;

    /** To make keys takes seconds. */
    private static X509Certificate certificate;

    @BeforeAll
    static void make() {
        certificate = new OpcUaTrust(kept).own().certificate();
    }

    private void ownIs(byte[] bytes) throws IOException {
        Files.write(folder.resolve("own.p12"), bytes);
    }

    @Test
    void anOwnCertificateThatCannotBeReadIsSaidWithWhatHelpsAndStaysAsItIs() throws IOException {
        byte[] whole = Files.readAllBytes(kept.resolve("own.p12"));
        byte[] flipped = whole.clone();
        flipped[flipped.length / 2] ^= 4;
        for (byte[] damaged : List.of(new byte[0], Arrays.copyOf(whole, 100), flipped)) {
            ownIs(damaged);
            OpcUaTrust trust = new OpcUaTrust(folder);
            assertThatThrownBy(trust::own)
                    .isInstanceOf(IllegalStateException.class)
                    .hasMessageContaining(folder.resolve("own.p12").toString())
                    .hasMessageContaining("Bring it back")
                    .hasMessageEndingWith(".");
            assertThat(folder.resolve("own.p12")).hasBinaryContent(damaged);
            ownIs(whole);
            assertThat(trust.own().certificate()).isEqualTo(certificate);
        }
    }

    @Test
    void anOwnCertificateThatCannotBeWrittenIsSaidAndMadeOnceItCanBe() throws IOException {
        Path inTheWay = folder.resolve("opcua");
        Files.createFile(inTheWay);
        OpcUaTrust trust = new OpcUaTrust(inTheWay);
        assertThatThrownBy(trust::own)
                .isInstanceOf(IllegalStateException.class)
                .hasMessageContaining("could not be made in " + inTheWay);
        Files.delete(inTheWay);
        assertThat(new OpcUaTrust(inTheWay).own().certificate())
                .isEqualTo(new OpcUaTrust(inTheWay).own().certificate());
        try (Stream<Path> files = Files.list(inTheWay)) {
            assertThat(files).containsExactly(inTheWay.resolve("own.p12"));
        }
    }

    @Test
    void aServersCertificateOfWhichHalfWasWrittenIsSeenAgainAndCanBeAccepted() throws IOException {
        String fingerprint = OpcUaTrust.fingerprint(certificate);
        Path seen = Files.createDirectories(folder.resolve("seen")).resolve(fingerprint + ".der");
        for (byte[] half : List.of(new byte[0], new byte[] {48, 3})) {
            Files.write(seen, half);
            OpcUaTrust trust = new OpcUaTrust(folder);
            assertThat(trust.trusts(certificate)).isFalse();
            assertThat(trust.seen()).extracting(OpcUaTrust.Seen::fingerprint).containsExactly(fingerprint);
            trust.trust(fingerprint);
            assertThat(trust.trusts(certificate)).isTrue();
            trust.distrust(fingerprint);
        }
    }

    @Test
    void anAcceptedServerStaysAcceptedWhereNothingCanBeWritten() throws IOException {
        OpcUaTrust trust = new OpcUaTrust(folder);
        trust.trusts(certificate);
        trust.trust(OpcUaTrust.fingerprint(certificate));
        Files.delete(folder.resolve("seen").resolve(OpcUaTrust.fingerprint(certificate) + ".der"));
        Files.delete(folder.resolve("seen"));
        Files.createFile(folder.resolve("seen"));
        assertThat(trust.trusts(certificate)).isTrue();
        assertThat(trust.seen()).isEmpty();
    }

    @Test
    void trustThatCannotBeNotedIsSaidAndChangesNothing() throws IOException {
        OpcUaTrust trust = new OpcUaTrust(folder);
        trust.trusts(certificate);
        Files.createFile(folder.resolve("trusted"));
        assertThatThrownBy(() -> trust.trust(OpcUaTrust.fingerprint(certificate)))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("cannot be noted in " + folder)
                .hasMessageEndingWith("nothing is changed.");
        assertThat(trust.trusts(certificate)).isFalse();
    }

    @Test
    void manyWhoSeeAndAcceptOneAtOnceStandInNobodysWay() {
        OpcUaTrust trust = new OpcUaTrust(folder);
        String fingerprint = OpcUaTrust.fingerprint(certificate);
        IntStream.range(0, 200).parallel().forEach(i -> {
            trust.trusts(certificate);
            trust.trust(fingerprint);
        });
        assertThat(trust.trusts(certificate)).isTrue();
        assertThat(trust.seen()).hasSize(1);
    }
}
