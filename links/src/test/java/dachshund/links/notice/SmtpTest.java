package dachshund.links.notice;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import dachshund.core.notice.Calm.Line;
import dachshund.core.notice.Calm.What;
import dachshund.core.notice.Carrier.Undelivered;
import dachshund.core.notice.Matter;
import dachshund.core.notice.Message;
import dachshund.core.notice.Sort;
import dachshund.core.reach.Outside;
import dachshund.core.source.SettingField;
import dachshund.standins.PrivateProcess;
import dachshund.standins.mail.PrivateMail;
import jakarta.mail.internet.MimeMessage;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;

class SmtpTest {

    private static final Instant NOW = Instant.parse("2026-11-27T06:00:00Z");
    private static final Message MESSAGE = new Message(
            "0f0f",
            NOW,
            "Quillmoor · Nørre",
            "UTC",
            List.of(new Line(
                    What.BEGAN,
                    new Matter("k", Sort.HELD, "Rapport — kWh", "", Set.of(), ".\r\n. a line of one dot", NOW))));

    private static Map<String, String> settings(int port, String... more) {
        Map<String, String> settings = new HashMap<>();
        Smtp.fields().forEach(field -> settings.put(field.name(), field.initial()));
        settings.put("host", "127.0.0.1");
        settings.put("port", Integer.toString(port));
        settings.put("security", "none");
        settings.put("from", "dachshund@quillmoor.example");
        for (int i = 0; i < more.length; i += 2) {
            settings.put(more[i], more[i + 1]);
        }
        return settings;
    }

    private static Undelivered refused(Map<String, String> settings) {
        Smtp smtp = new Smtp(() -> settings, Outside.ANYWHERE);
        return catchThrowableOfType(Undelivered.class, () -> smtp.carry(List.of(PrivateMail.ADDRESS), MESSAGE));
    }

    @Test
    void aMessageArrivesAsItWasWritten() throws Exception {
        int port = PrivateProcess.freePort();
        try (PrivateMail mail = new PrivateMail(port, 0)) {
            Map<String, String> settings = settings(port, "user", PrivateMail.USER, "password", PrivateMail.PASSWORD);
            new Smtp(() -> settings, Outside.ANYWHERE).carry(List.of(PrivateMail.ADDRESS), MESSAGE);
            MimeMessage arrived = mail.arrived().get(0);
            assertThat(arrived.getSubject())
                    .isEqualTo("Quillmoor · Nørre: Rapport — kWh: a destination does not take rows");
            assertThat(arrived.getContent().toString())
                    .contains("Rapport — kWh: .\r\n. a line of one dot", "since 2026-11-27 06:00:00 UTC");
            assertThat(arrived.getHeader("Message-ID")).containsExactly("<0f0f@dachshund>");
            assertThat(arrived.getHeader("Auto-Submitted")).containsExactly("auto-generated");
            assertThat(arrived.getFrom()[0]).hasToString("dachshund@quillmoor.example");
        }
    }

    @Test
    void aWrongPasswordIsSaidAndTriedAgainLater() throws Exception {
        int port = PrivateProcess.freePort();
        try (PrivateMail mail = new PrivateMail(port, 0)) {
            Undelivered problem = refused(settings(port, "user", PrivateMail.USER, "password", "wrong"));
            assertThat(problem).hasMessageContaining("refuses this user or password");
            assertThat(problem.forGood()).isFalse();
            assertThat(mail.arrived()).isEmpty();
        }
    }

    @Test
    void noPasswordGoesInClearWhereStarttlsIsWanted() throws Exception {
        int port = PrivateProcess.freePort();
        try (PrivateMail mail = new PrivateMail(port, 0)) {
            Undelivered problem = refused(
                    settings(port, "security", "starttls", "user", PrivateMail.USER, "password", PrivateMail.PASSWORD));
            assertThat(problem).hasMessageContaining("STARTTLS");
            assertThat(mail.arrived()).isEmpty();
        }
    }

    @Test
    void aServerWhoseAuthorityIsNotKnownGetsNothing() throws Exception {
        int port = PrivateProcess.freePort();
        GreenMail server = new GreenMail(new ServerSetup(port, "127.0.0.1", ServerSetup.PROTOCOL_SMTPS));
        server.start();
        try {
            Undelivered problem = refused(settings(port, "security", "tls"));
            assertThat(problem.forGood()).isFalse();
            assertThat(problem).hasMessageContaining("PKIX");
            assertThat(server.getReceivedMessages()).isEmpty();
        } finally {
            server.stop();
        }
    }

    @Test
    void whatTheAdministratorForbidsIsNotReached() {
        Smtp smtp = new Smtp(() -> settings(25), new Outside() {
            @Override
            public void check(String host, int port) throws Refused {
                throw new Refused("No connection may go there.");
            }

            @Override
            public void check(String host, int port, String database) {
                // no database here
            }
        });
        Undelivered problem = catchThrowableOfType(Undelivered.class, () -> smtp.carry(List.of("a@b"), MESSAGE));
        assertThat(problem).hasMessage("No connection may go there.");
    }

    /** A server that says what it is told to after each command. */
    private static Undelivered says(String recipient, String data) throws IOException {
        try (ServerSocket socket = new ServerSocket(0, 5, InetAddress.getLoopbackAddress())) {
            Thread server = new Thread(() -> {
                try (Socket one = socket.accept();
                        BufferedReader in = new BufferedReader(
                                new InputStreamReader(one.getInputStream(), StandardCharsets.US_ASCII))) {
                    say(one, "220 hello");
                    for (String line = in.readLine(); line != null; line = in.readLine()) {
                        say(
                                one,
                                line.startsWith("EHLO")
                                        ? "250 hello"
                                        : line.startsWith("RCPT")
                                                ? recipient
                                                : line.equals("DATA")
                                                        ? data
                                                        : line.equals("QUIT") ? "221 bye" : "250 ok");
                    }
                } catch (IOException gone) {
                    // the client has what it needs
                }
            });
            server.start();
            return refused(settings(socket.getLocalPort()));
        }
    }

    private static void say(Socket one, String line) throws IOException {
        one.getOutputStream().write((line + "\r\n").getBytes(StandardCharsets.US_ASCII));
        one.getOutputStream().flush();
    }

    /** RFC 5321, 4.2.1: 4yz is transient, 5yz is for good. */
    @Test
    void whatAServerRefusesForGoodIsNotTriedAgainAndWhatItRefusesForNowIs() throws Exception {
        assertThat(says("550 no such user here", "250 ok"))
                .satisfies(problem -> assertThat(problem.forGood()).isTrue())
                .hasMessageContaining("550 no such user here");
        assertThat(says("451 come back later", "250 ok"))
                .satisfies(problem -> assertThat(problem.forGood()).isFalse())
                .hasMessageContaining("451 come back later");
        assertThat(says("250 ok", "554 looks like spam"))
                .satisfies(problem -> assertThat(problem.forGood()).isTrue())
                .hasMessageContaining("554 looks like spam");
        assertThat(says("nonsense", "250 ok"))
                .satisfies(problem -> assertThat(problem.forGood()).isFalse());
    }

    @Test
    void whereThereIsNobodyThatIsSaid() throws Exception {
        Undelivered problem = refused(settings(PrivateProcess.freePort()));
        assertThat(problem.forGood()).isFalse();
        assertThat(problem).hasMessageContaining("cannot be used");
    }

    @Test
    void settingsAreLookedAt() {
        assertThat(SettingField.problems(Smtp.fields(), settings(25))).isEmpty();
        assertThat(SettingField.problems(
                        Smtp.fields(), settings(25, "from", "x", "authority", "no certificate", "security", "ssl")))
                .containsOnlyKeys("from", "authority", "security");
    }
}
