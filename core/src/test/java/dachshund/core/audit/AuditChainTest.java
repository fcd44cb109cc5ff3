package dachshund.core.audit;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.secret.SecretBox;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HexFormat;
import java.util.List;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;

class AuditChainTest {

    private static final SecretBox KEY = new SecretBox(bytes(1));

    private record Kept(AuditEntry entry, String sum) {}

    private static byte[] bytes(int value) {
        byte[] key = new byte[32];
        Arrays.fill(key, (byte) value);
        return key;
    }

    private static AuditEntry entry(long number) {
        return new AuditEntry(
                number, Instant.ofEpochMilli(1_000_000 + number), "engineer", "released", "release " + number);
    }

    private static List<Kept> chain(SecretBox secrets, int count) {
        List<Kept> kept = new ArrayList<>();
        extend(kept, secrets, count);
        return kept;
    }

    private static void extend(List<Kept> kept, SecretBox secrets, int count) {
        for (int i = 0; i < count; i++) {
            String before = kept.isEmpty()
                    ? AuditChain.BEGIN
                    : kept.get(kept.size() - 1).sum();
            AuditEntry entry = entry(kept.size() + 1);
            kept.add(new Kept(entry, AuditChain.sum(secrets, before, entry)));
        }
    }

    private static AuditChain.Walk walk(SecretBox secrets, List<Kept> kept) {
        AuditChain.Walk walk = new AuditChain.Walk(secrets);
        kept.forEach(each -> walk.next(each.entry(), each.sum()));
        return walk;
    }

    @Test
    void whatNobodyTouchedIsWhole() {
        AuditChain.Walk walk = walk(KEY, chain(KEY, 20));
        assertThat(walk.broken()).isEmpty();
        assertThat(walk.entries()).isEqualTo(20);
        assertThat(walk.withoutKey()).isZero();
    }

    @TestFactory
    Stream<DynamicTest> whateverIsAlteredIsFoundAtItsPlace() {
        return Stream.of(
                altered("another time", "Entry 5 was altered", kept -> replace(kept, 4, "engineer", "released", 7)),
                altered("another name", "Entry 5 was altered", kept -> replace(kept, 4, "viewer", "released", 0)),
                altered("another deed", "Entry 5 was altered", kept -> replace(kept, 4, "engineer", "looked", 0)),
                altered("one taken out", "Entry 5 is missing", kept -> kept.remove(4)),
                altered("the first taken out", "Entry 1 is missing", kept -> kept.remove(0)),
                altered("two change places", "Entry 5 is missing", kept -> kept.add(5, kept.remove(4))),
                altered("one twice", "Entry 5 is there twice", kept -> kept.add(5, kept.get(4))),
                altered("one put in with a number of its own", "Entry 5 was altered", kept -> {
                    kept.subList(4, kept.size()).clear();
                    kept.add(new Kept(entry(5), "none:0"));
                }),
                altered("all behind it made to fit without the key", "Entry 5 was altered", kept -> {
                    kept.subList(4, kept.size()).clear();
                    SecretBox other = new SecretBox(bytes(2));
                    while (kept.size() < 9) {
                        AuditEntry made = entry(kept.size() + 1);
                        String sum =
                                AuditChain.sum(other, kept.get(kept.size() - 1).sum(), made);
                        kept.add(new Kept(made, sum.replaceFirst("^[0-9a-f]{8}", SecretBox.id(bytes(1)))));
                    }
                }));
    }

    private static DynamicTest altered(String name, String sentence, Consumer<List<Kept>> change) {
        return DynamicTest.dynamicTest(name, () -> {
            List<Kept> kept = chain(KEY, 9);
            change.accept(kept);
            assertThat(walk(KEY, kept).broken()).startsWith(sentence);
        });
    }

    private static void replace(List<Kept> kept, int at, String who, String what, long later) {
        AuditEntry old = kept.get(at).entry();
        AuditEntry other = new AuditEntry(old.number(), old.at().plusMillis(later), who, what, old.detail());
        kept.set(at, new Kept(other, kept.get(at).sum()));
    }

    /** Parts are led by their lengths: moving a letter from one to the next makes another entry. */
    @Test
    void noTwoEntriesReadAlike() {
        Instant at = Instant.EPOCH;
        assertThat(AuditChain.sum(KEY, "", new AuditEntry(1, at, "ab", "c", "")))
                .isNotEqualTo(AuditChain.sum(KEY, "", new AuditEntry(1, at, "a", "bc", "")));
    }

    @Test
    void aNewKeyGoesOnWhereTheOldOneEnded() {
        List<Kept> kept = chain(KEY, 3);
        SecretBox both = new SecretBox(bytes(2), bytes(1));
        extend(kept, both, 3);
        assertThat(walk(both, kept).broken()).isEmpty();
        assertThat(walk(new SecretBox(bytes(2)), kept).broken()).contains("a key that is not here");
    }

    @Test
    void withoutAKeyEntriesAreKeptAndThatIsSaid() {
        List<Kept> kept = chain(KEY, 3);
        extend(kept, SecretBox.lost("gone"), 2);
        extend(kept, KEY, 1);
        AuditChain.Walk walk = walk(KEY, kept);
        assertThat(walk.broken()).isEmpty();
        assertThat(walk.withoutKey()).isEqualTo(2);
    }

    /** RFC 2104, section 2, by its formula: H(K xor opad, H(K xor ipad, text)), with a key that is made in the same way. */
    @Test
    void theChecksumIsHmacSha256() throws Exception {
        byte[] text = "what do ya want for nothing?".getBytes(StandardCharsets.UTF_8);
        byte[] key = hmac(bytes(1), "audit".getBytes(StandardCharsets.UTF_8));
        assertThat(KEY.sum("audit", text))
                .isEqualTo(SecretBox.id(bytes(1)) + ":" + HexFormat.of().formatHex(hmac(key, text)));
        // RFC 4231, test case 2, from memory: the formula above is written down rightly.
        assertThat(HexFormat.of().formatHex(hmac("Jefe".getBytes(StandardCharsets.UTF_8), text)))
                .isEqualTo("5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843");
    }

    private static byte[] hmac(byte[] key, byte[] text) throws Exception {
        byte[] block = Arrays.copyOf(key, 64);
        MessageDigest inner = MessageDigest.getInstance("SHA-256");
        inner.update(xor(block, 0x36));
        MessageDigest outer = MessageDigest.getInstance("SHA-256");
        outer.update(xor(block, 0x5c));
        return outer.digest(inner.digest(text));
    }

    private static byte[] xor(byte[] block, int with) {
        byte[] mixed = new byte[block.length];
        for (int i = 0; i < block.length; i++) {
            mixed[i] = (byte) (block[i] ^ with);
        }
        return mixed;
    }
}
