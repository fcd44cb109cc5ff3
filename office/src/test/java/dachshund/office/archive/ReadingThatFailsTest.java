package dachshund.office.archive;

import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.archive.ArchiveStore.Block;
import dachshund.core.archive.ArchiveStore.Problem;
import dachshund.core.archive.ArchiveStore.Tag;
import dachshund.core.archive.Arrivals;
import dachshund.core.archive.KeptFor;
import dachshund.core.archive.TagKey;
import dachshund.core.tag.TagRef;
import dachshund.core.time.OpcUaTime;
import dachshund.office.archive.BlockTable.Pieces;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.SQLException;
import java.sql.SQLRecoverableException;
import java.sql.SQLTimeoutException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import javax.sql.DataSource;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Our own database fails at any call of a driver while histories are read: a sentence comes, and nothing wrong stays in memory. */
class ReadingThatFailsTest {

    private static final TagRef A = new TagRef("5ca1ab1e", "a");
    private static final long KEY = TagKey.of(A);
    private static final int DAY = 86_400;
    private static final Instant FROM = Instant.parse("2026-10-01T00:00:00Z");

    private static final String NOT_EXPECTED = "the driver did not expect that";

    private final BlockTable sound = new BlockTable(ArchiveBed.POOL);
    private Random random;
    /** One call of so many fails; 0 for none. */
    private int oneOf;

    @BeforeEach
    void empty() throws Problem {
        ArchiveBed.empty();
        for (int day = 0; day < 3; day++) {
            Arrivals values = new Arrivals();
            for (int second = 0; second < DAY; second += 20) {
                values.add(OpcUaTime.toTicks(FROM.plusSeconds((long) day * DAY + second)), Math.sin(second) + day, 0);
            }
            sound.bringIn(
                    "brought in",
                    Block.of(KEY, values.series()),
                    List.of(new Tag(KEY, A, "A tag", new KeptFor(5, KeptFor.LONGEST))));
            if (day == 0) {
                for (Pieces each : sound.inPieces(Long.MAX_VALUE, 1, 1000)) {
                    sound.putTogether(each.tag(), each.span(), Long.MAX_VALUE);
                }
            }
        }
    }

    /** What the driver gives, each of its calls one that may fail; nothing fails while something is closed. */
    private Object failing(Object real, Class<?> face) {
        return Proxy.newProxyInstance(face.getClassLoader(), new Class<?>[] {face}, (proxy, method, arguments) -> {
            boolean closes = method.getName().equals("close") || method.getDeclaringClass() == Object.class;
            if (!closes && oneOf > 0 && random.nextInt(oneOf) == 0) {
                throw failure();
            }
            try {
                Object given = method.invoke(real, arguments);
                boolean more = given != null
                        && method.getReturnType().isInterface()
                        && method.getReturnType().getPackageName().equals("java.sql");
                return more ? failing(given, method.getReturnType()) : given;
            } catch (InvocationTargetException thrown) {
                throw thrown.getCause();
            }
        });
    }

    private Throwable failure() {
        return switch (random.nextInt(4)) {
            case 0 -> new SQLRecoverableException("the connection is gone", "08S01");
            case 1 -> new SQLTimeoutException("it took too long");
            case 2 -> new SQLException("something else");
            default -> new IllegalStateException(NOT_EXPECTED);
        };
    }

    private static Histories histories(BlockTable table) {
        return new Histories(table, () -> FROM.plusSeconds(30L * DAY), tag -> List.of());
    }

    private static List<String> drawn(Histories histories, Instant from, Instant to, int points) throws Problem {
        Histories.Outlined plot = histories.outlined(A, from, to, points, false);
        List<String> lines = new ArrayList<>();
        for (int i = 0; i < plot.points().size(); i++) {
            lines.add(plot.points().time(i) + " " + plot.points().value(i) + " "
                    + plot.points().grade(i));
        }
        plot.trouble().forEach(each -> lines.add(each.toString()));
        lines.add(plot.told());
        return lines;
    }

    private static Optional<List<String>> drawnOrSaid(Histories histories, Instant from, Instant to, int points) {
        try {
            return Optional.of(drawn(histories, from, to, points));
        } catch (Problem said) {
            assertThat(said).hasMessageEndingWith(".");
            return Optional.empty();
        } catch (IllegalStateException unknown) {
            // Whoever asks for a curve says of it what nobody expected.
            assertThat(unknown).hasMessage(NOT_EXPECTED);
            return Optional.empty();
        }
    }

    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3})
    void aFailureIsSaidAndTheNextAnswerIsWhatIsThere(long seed) throws Exception {
        random = new Random(seed);
        Histories tried = histories(new BlockTable((DataSource) failing(ArchiveBed.POOL, DataSource.class)));
        int failed = 0;
        for (int look = 0; look < 20; look++) {
            Instant from = FROM.plusMillis(random.nextInt(2 * DAY) * 1000L + random.nextInt(1000));
            Instant to = from.plusSeconds(60 + random.nextInt(DAY));
            int points = 2 + random.nextInt(600);
            List<String> wanted = drawn(histories(sound), from, to, points);
            oneOf = List.of(3, 30, 300, 3000).get(random.nextInt(4));
            Optional<List<String>> given = drawnOrSaid(tried, from, to, points);
            oneOf = 0;
            failed += given.isEmpty() ? 1 : 0;
            given.ifPresent(lines -> assertThat(lines).isEqualTo(wanted));
            assertThat(drawn(tried, from, to, points)).isEqualTo(wanted);
        }
        assertThat(failed).isBetween(4, 19);
    }
}
