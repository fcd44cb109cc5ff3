package dachshund.engine.notice;

import static dachshund.engine.Soon.soon;
import static org.assertj.core.api.Assertions.assertThat;

import dachshund.core.notice.Calm.Line;
import dachshund.core.notice.Calm.What;
import dachshund.core.notice.Carrier;
import dachshund.core.notice.Matter;
import dachshund.core.notice.Message;
import dachshund.core.notice.NoticeRule;
import dachshund.core.notice.Sort;
import dachshund.engine.local.LocalStore;
import dachshund.engine.local.SentNotices.Sent;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A mail server that does whatever it likes: nothing is lost, and one recipient's trouble is no other's. */
class OutboxTest {

    private static final Instant BEGIN = Instant.parse("2026-11-27T06:00:00Z");

    @TempDir
    Path folder;

    private final ConcurrentLinkedQueue<String> arrived = new ConcurrentLinkedQueue<>();
    private final AtomicReference<Carrier> server = new AtomicReference<>();
    private final CountDownLatch never = new CountDownLatch(1);
    private volatile Instant now = BEGIN;
    private LocalStore local;
    private Outbox outbox;

    @BeforeEach
    void open() {
        server.set((to, message) -> arrived.add(to.get(0) + " " + message.id()));
        start();
    }

    private void start() {
        local = new LocalStore(folder.resolve("local.db"));
        outbox = new Outbox(
                folder.resolve("notices"),
                local,
                () -> now,
                Map.of(NoticeRule.Way.MAIL, (to, message) -> server.get().carry(to, message)),
                1_000_000);
    }

    private void stop() {
        outbox.close();
        local.close();
    }

    @AfterEach
    void close() {
        never.countDown();
        stop();
    }

    private static NoticeRule rule(String to) {
        return new NoticeRule(
                "00000001",
                "Shift",
                NoticeRule.Way.MAIL,
                to,
                Set.of(),
                false,
                List.of(),
                List.of(),
                List.of(),
                "",
                "",
                false);
    }

    private void post(String to, String id) throws Exception {
        outbox.post(rule(to), new Message(id, now, "Quillmoor", "UTC", List.of()));
    }

    private List<String> outcomes() {
        return local.notices().newest(100).stream().map(Sent::outcome).toList();
    }

    @Test
    void eachRecipientGetsEachMessageOnceInOrder() throws Exception {
        for (int i = 0; i < 30; i++) {
            post("a@x, b@x", "m" + i);
        }
        soon(() -> arrived.size() == 60);
        for (String who : List.of("a@x", "b@x")) {
            List<String> wanted = new ArrayList<>();
            for (int i = 0; i < 30; i++) {
                wanted.add(who + " m" + i);
            }
            assertThat(arrived.stream().filter(each -> each.startsWith(who))).containsExactlyElementsOf(wanted);
        }
        soon(() -> outcomes().size() == 60);
        assertThat(outcomes()).allMatch("sent"::equals);
        stop();
        start();
        Thread.sleep(600);
        assertThat(arrived).as("nothing again after a restart").hasSize(60);
    }

    @Test
    void aServerThatIsAwayForTwoDaysAndARestartLosesNone() throws Exception {
        server.set((to, message) -> {
            throw new Carrier.Undelivered("The mail server does not answer.", false, null);
        });
        post("a@x", "m1");
        post("a@x", "m2");
        soon(() -> outbox.waiting().stream().anyMatch(each -> each.sentence().contains("does not answer")));
        assertThat(outbox.waiting()).singleElement().satisfies(each -> assertThat(each.waiting())
                .isEqualTo(2));
        stop();
        now = BEGIN.plus(Duration.ofDays(2));
        start();
        post("a@x", "m3");
        server.set((to, message) -> arrived.add(message.id()));
        soon(() -> arrived.size() == 3);
        assertThat(arrived).containsExactly("m1", "m2", "m3");
    }

    @Test
    void whatIsOlderThanThreeDaysIsGivenUpAndSaid() throws Exception {
        server.set((to, message) -> {
            throw new Carrier.Undelivered("The mail server does not answer.", false, null);
        });
        post("a@x", "m1");
        soon(() -> !outbox.waiting().isEmpty());
        now = BEGIN.plus(Duration.ofDays(4));
        soon(() -> outbox.waiting().isEmpty());
        assertThat(outcomes()).singleElement().asString().startsWith("Given up after 3 days.");
    }

    @Test
    void oneThatIsRefusedForGoodIsSaidAndTheNextGoesOn() throws Exception {
        server.set((to, message) -> {
            if (message.id().equals("m1")) {
                throw new Carrier.Undelivered("550 no such user", true, null);
            }
            arrived.add(message.id());
        });
        post("a@x", "m1");
        post("a@x", "m2");
        soon(() -> outcomes().size() == 2);
        assertThat(outcomes()).containsExactly("sent", "550 no such user");
    }

    @Test
    void oneThatHangsOrThrowsAnythingHoldsUpNoOther() throws Exception {
        server.set((to, message) -> {
            if (to.contains("hangs@x")) {
                await();
            }
            if (to.contains("throws@x")) {
                throw new StackOverflowError("odd");
            }
            arrived.add(to.get(0));
        });
        post("hangs@x", "m1");
        post("throws@x", "m1");
        post("well@x", "m1");
        soon(() -> arrived.contains("well@x"));
        soon(() -> outcomes().stream().anyMatch(each -> each.startsWith("Given up after 5 tries. Unexpectedly")));
        // What became of one is on disk a moment before it leaves its lane.
        soon(() -> outbox.waiting().stream().map(Outbox.State::to).toList().equals(List.of("hangs@x")));
    }

    private void await() {
        try {
            never.await();
        } catch (InterruptedException stopped) {
            Thread.currentThread().interrupt();
        }
    }

    /** The local disk does not say how far a lane is, for a moment: the message is there when it does. */
    @Test
    void aLocalDiskThatRefusesForAMomentLosesNone() throws Exception {
        stop();
        local = org.mockito.Mockito.spy(new LocalStore(folder.resolve("local.db")));
        var real = local.notices();
        var failing = org.mockito.Mockito.mock(
                dachshund.engine.local.SentNotices.class, org.mockito.AdditionalAnswers.delegatesTo(real));
        java.util.concurrent.atomic.AtomicInteger asked = new java.util.concurrent.atomic.AtomicInteger();
        org.mockito.Mockito.doAnswer(call -> {
                    // The first question is that of the one who posts, the second that of the one who reads.
                    if (asked.incrementAndGet() == 2) {
                        throw new IllegalStateException("the disk is busy");
                    }
                    return real.settled(call.getArgument(0));
                })
                .when(failing)
                .settled(org.mockito.ArgumentMatchers.anyString());
        org.mockito.Mockito.doReturn(failing).when(local).notices();
        outbox = new Outbox(
                folder.resolve("notices"),
                local,
                () -> now,
                Map.of(NoticeRule.Way.MAIL, (to, message) -> server.get().carry(to, message)),
                1_000_000);
        post("a@x", "m1");
        soon(() -> arrived.contains("a@x m1"));
        assertThat(asked.get()).isGreaterThan(2);
    }

    @Test
    void aJournalThatIsLostBeginsAnewAndNewMessagesStillGo() throws Exception {
        post("a@x", "m1");
        soon(() -> outcomes().size() == 1);
        stop();
        try (var files = java.nio.file.Files.walk(folder.resolve("notices"))) {
            files.sorted(java.util.Comparator.reverseOrder()).map(Path::toFile).forEach(java.io.File::delete);
        }
        start();
        post("a@x", "m2");
        soon(() -> arrived.contains("a@x m2"));
    }

    /** From a matter to a message, over a restart: told once, and solved once. */
    @Test
    void aMatterIsToldOnceOverARestart() throws Exception {
        Matter held = new Matter("held", Sort.HELD, "Records", "", Set.of(), "It is away.", BEGIN);
        List<Line> lines = new java.util.concurrent.CopyOnWriteArrayList<>();
        server.set((to, message) -> lines.addAll(message.lines()));
        List<Matter> standing = new java.util.concurrent.CopyOnWriteArrayList<>(List.of(held));
        Notices notices = notices(standing);
        notices.change(rule("a@x"));
        looks(notices, 40);
        soon(() -> lines.size() == 1);
        notices.close();
        local.close();
        start();
        Notices next = notices(standing);
        assertThat(next.rules()).hasSize(1);
        looks(next, 40);
        standing.clear();
        looks(next, 100);
        soon(() -> lines.size() == 2);
        assertThat(lines).extracting(Line::what).containsExactly(What.BEGAN, What.SOLVED);
    }

    private Notices notices(List<Matter> standing) {
        return new Notices(local, outbox, () -> now, ZoneOffset.UTC, "Quillmoor", List.of(() -> standing, () -> {
            throw new IllegalStateException("a defect of one watcher");
        }));
    }

    private void looks(Notices notices, int seconds) throws InterruptedException {
        for (int i = 0; i < seconds; i += 5) {
            now = now.plusSeconds(5);
            notices.look();
        }
        Thread.sleep(400);
        notices.look();
    }
}
