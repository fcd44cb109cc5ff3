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
import dachshund.links.network.TestAuthority;
import dachshund.standins.PrivateProcess;
import dachshund.standins.mail.PrivateMail;
import jakarta.mail.internet.MimeMessage;
import java.io.BufferedReader;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.security.KeyFactory;
import java.security.KeyStore;
import java.security.cert.Certificate;
import java.security.cert.CertificateFactory;
import java.security.cert.X509Certificate;
import java.security.spec.PKCS8EncodedKeySpec;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CopyOnWriteArrayList;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLSocket;
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
        GreenMail server = new GreenMail(PrivateMail.setup(port, ServerSetup.PROTOCOL_SMTPS));
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

    private static KeyStore store(TestAuthority.Server server) throws Exception {
        KeyStore store = KeyStore.getInstance("PKCS12");
        store.load(null, new char[0]);
        X509Certificate certificate = (X509Certificate) CertificateFactory.getInstance("X.509")
                .generateCertificate(
                        new ByteArrayInputStream(server.certificate().getBytes(StandardCharsets.US_ASCII)));
        byte[] key = Base64.getMimeDecoder().decode(server.key().replaceAll("-----[A-Z ]+-----", ""));
        store.setKeyEntry(
                "server",
                KeyFactory.getInstance("EC").generatePrivate(new PKCS8EncodedKeySpec(key)),
                new char[0],
                new Certificate[] {certificate});
        return store;
    }

    /** A server that takes one mail, over TLS from the first byte or after STARTTLS; what it was told, with what came in clear. */
    private static List<String> takes(boolean atOnce, TestAuthority.Server certified, Map<String, String> settings)
            throws Exception {
        KeyManagerFactory keys = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
        keys.init(store(certified), new char[0]);
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(keys.getKeyManagers(), null, null);
        List<String> told = new CopyOnWriteArrayList<>();
        try (ServerSocket socket = new ServerSocket(0, 5, InetAddress.getLoopbackAddress())) {
            Thread server = new Thread(() -> {
                try (Socket plain = socket.accept()) {
                    Socket now = atOnce ? secured(context, plain) : plain;
                    say(now, "220 hello");
                    BufferedReader in = reader(now);
                    boolean data = false;
                    for (String line = in.readLine(); line != null; line = in.readLine()) {
                        told.add((now instanceof SSLSocket ? "tls " : "clear ") + line);
                        if (data) {
                            data = !line.equals(".");
                            if (!data) {
                                say(now, "250 taken");
                            }
                        } else if (line.startsWith("EHLO")) {
                            say(
                                    now,
                                    now instanceof SSLSocket
                                            ? "250-hello\r\n250 AUTH PLAIN"
                                            : "250-hello\r\n250 STARTTLS");
                        } else if (line.equals("STARTTLS")) {
                            say(now, "220 go ahead");
                            now = secured(context, plain);
                            in = reader(now);
                        } else if (line.startsWith("AUTH")) {
                            say(now, "235 come in");
                        } else if (line.equals("DATA")) {
                            say(now, "354 go ahead");
                            data = true;
                        } else {
                            say(now, line.equals("QUIT") ? "221 bye" : "250 ok");
                        }
                    }
                } catch (IOException gone) {
                    // the client has what it needs
                }
            });
            server.start();
            settings.put("port", Integer.toString(socket.getLocalPort()));
            new Smtp(() -> settings, Outside.ANYWHERE).carry(List.of(PrivateMail.ADDRESS), MESSAGE);
        }
        return told;
    }

    private static BufferedReader reader(Socket of) throws IOException {
        return new BufferedReader(new InputStreamReader(of.getInputStream(), StandardCharsets.US_ASCII));
    }

    private static SSLSocket secured(SSLContext context, Socket over) throws IOException {
        SSLSocket secured = (SSLSocket) context.getSocketFactory().createSocket(over, null, over.getPort(), false);
        secured.setUseClientMode(false);
        return secured;
    }

    @Test
    void withStarttlsAndWithTlsNothingButTheAgreementGoesInClear() throws Exception {
        TestAuthority authority = new TestAuthority("Plant authority");
        TestAuthority.Server good = authority.server(Duration.ofDays(5), "127.0.0.1");
        for (String security : List.of("starttls", "tls")) {
            List<String> told = takes(
                    security.equals("tls"),
                    good,
                    settings(0, "security", security, "user", "u", "password", "p", "authority", authority.pem()));
            assertThat(told)
                    .anyMatch(line -> line.startsWith("tls AUTH"))
                    .anyMatch(line -> line.startsWith("tls RCPT"));
            assertThat(told.stream().filter(line -> line.startsWith("clear ")))
                    .allMatch(line -> line.startsWith("clear EHLO") || line.equals("clear STARTTLS"));
        }
    }

    @Test
    void aMailServerWithACertificateForAnotherHostGetsNothing() throws Exception {
        TestAuthority authority = new TestAuthority("Plant authority");
        TestAuthority.Server other = authority.server(Duration.ofDays(5), "mail.example.org");
        for (String security : List.of("starttls", "tls")) {
            Undelivered problem = catchThrowableOfType(
                    Undelivered.class,
                    () -> takes(
                            security.equals("tls"),
                            other,
                            settings(0, "security", security, "authority", authority.pem())));
            assertThat(problem).as(security).isNotNull();
            assertThat(problem.forGood()).isFalse();
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
