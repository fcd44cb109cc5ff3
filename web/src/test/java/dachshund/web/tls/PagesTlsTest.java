package dachshund.web.tls;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.StringWriter;
import java.math.BigInteger;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.KeyStore;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.time.Instant;
import java.time.Period;
import java.util.Arrays;
import java.util.Date;
import java.util.List;
import java.util.Random;
import java.util.stream.Stream;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLSocket;
import javax.net.ssl.TrustManager;
import javax.net.ssl.X509ExtendedTrustManager;
import javax.security.auth.x500.X500Principal;
import org.bouncycastle.cert.jcajce.JcaX509CertificateConverter;
import org.bouncycastle.cert.jcajce.JcaX509v3CertificateBuilder;
import org.bouncycastle.jce.provider.BouncyCastleProvider;
import org.bouncycastle.openssl.jcajce.JcaPEMWriter;
import org.bouncycastle.openssl.jcajce.JcaPKCS8Generator;
import org.bouncycastle.openssl.jcajce.JceOpenSSLPKCS8EncryptorBuilder;
import org.bouncycastle.operator.jcajce.JcaContentSignerBuilder;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateBuilder;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;
import org.junit.jupiter.api.io.TempDir;
import org.springframework.boot.web.embedded.tomcat.TomcatServletWebServerFactory;
import org.springframework.boot.web.server.WebServer;

class PagesTlsTest {

    private final Instant now = Instant.now();

    @TempDir
    Path folder;

    private record Made(KeyPair keys, X509Certificate certificate) {}

    private static Made made(String algorithm, int size, String name) throws Exception {
        KeyPairGenerator generator = KeyPairGenerator.getInstance(algorithm);
        generator.initialize(size);
        KeyPair keys = generator.generateKeyPair();
        SelfSignedCertificateBuilder builder = new SelfSignedCertificateBuilder(keys)
                .setCommonName(name)
                .setApplicationUri("urn:test")
                .addDnsName("localhost")
                .setValidityPeriod(Period.ofDays(30));
        builder.setSignatureAlgorithm(algorithm.equals("EC") ? "SHA256withECDSA" : "SHA256withRSA");
        return new Made(keys, builder.build());
    }

    private static String pem(Object... objects) throws IOException {
        StringWriter text = new StringWriter();
        try (JcaPEMWriter writer = new JcaPEMWriter(text)) {
            for (Object each : objects) {
                writer.writeObject(each);
            }
        }
        return text.toString();
    }

    private PagesSettings settings(String certificate, String key) throws IOException {
        Files.writeString(folder.resolve("pages.pem"), certificate);
        Files.writeString(folder.resolve("pages.key"), key);
        return new PagesSettings(
                folder.resolve("pages.pem").toString(),
                folder.resolve("pages.key").toString());
    }

    @TestFactory
    Stream<DynamicTest> keysOfEachKindAndFormAreRead() throws Exception {
        Made rsa = made("RSA", 2048, "rsa");
        Made ec = made("EC", 256, "ec");
        return Stream.of(
                reads("RSA, PKCS#1", rsa, pem(rsa.keys().getPrivate())),
                reads("RSA, PKCS#8", rsa, pem(new JcaPKCS8Generator(rsa.keys().getPrivate(), null))),
                reads("EC, SEC 1", ec, pem(ec.keys().getPrivate())),
                reads("EC, PKCS#8", ec, pem(new JcaPKCS8Generator(ec.keys().getPrivate(), null))));
    }

    private DynamicTest reads(String name, Made made, String key) {
        return DynamicTest.dynamicTest(name, () -> {
            ServerCertificate read = ServerCertificate.read(settings(pem(made.certificate()), key), now);
            assertThat(read.chain()).containsExactly(made.certificate());
            assertThat(read.key().getEncoded())
                    .isEqualTo(made.keys().getPrivate().getEncoded());
        });
    }

    /** A PKCS#12 file (RFC 7292) as keytool of the JDK makes it. */
    @Test
    void aPkcs12FileIsReadWithItsPassword() throws Exception {
        Path file = folder.resolve("pages.p12");
        List<String> make = List.of(
                Path.of(System.getProperty("java.home"), "bin", "keytool").toString(),
                "-genkeypair",
                "-keyalg",
                "EC",
                "-dname",
                "CN=pages",
                "-keystore",
                file.toString(),
                "-storetype",
                "PKCS12",
                "-storepass",
                "changed it");
        assertThat(new ProcessBuilder(make).redirectErrorStream(true).start().waitFor())
                .isZero();
        Path password = folder.resolve("password");
        Files.writeString(password, "changed it\n");
        assertThat(ServerCertificate.read(new PagesSettings(file.toString(), password.toString()), Instant.now())
                        .chain())
                .hasSize(1);
        Files.writeString(password, "another");
        assertThatThrownBy(() ->
                        ServerCertificate.read(new PagesSettings(file.toString(), password.toString()), Instant.now()))
                .hasMessageContaining("neither PEM nor a PKCS#12 file that the password in dachshund.pages.key opens");
    }

    @Test
    void whatCannotBeUsedIsSaidInASentence() throws Exception {
        Made made = made("EC", 256, "mine");
        String certificate = pem(made.certificate());
        String key = pem(made.keys().getPrivate());
        String encrypted = pem(new JcaPKCS8Generator(
                made.keys().getPrivate(),
                new JceOpenSSLPKCS8EncryptorBuilder(JcaPKCS8Generator.AES_256_CBC)
                        .setProvider(new BouncyCastleProvider())
                        .setPassword("secret".toCharArray())
                        .build()));
        refused(
                settings(certificate, pem(made("EC", 256, "other").keys().getPrivate())),
                now,
                "is not that of the certificate");
        refused(settings(certificate, encrypted), now, "is encrypted");
        refused(settings(certificate, certificate), now, "holds no private key");
        refused(settings("-----BEGIN nothing", key), now, "holds no certificate that can be read");
        refused(settings("nothing", key), now, "neither PEM nor a PKCS#12 file");
        refused(settings(certificate, key), now.plus(Duration.ofDays(31)), "ended on");
        refused(settings(certificate, key), now.minus(Duration.ofDays(800)), "Is the clock of this machine right?");
        refused(new PagesSettings(folder.resolve("pages.pem").toString(), ""), now, "and no key");
        refused(new PagesSettings(folder.resolve("none").toString(), ""), now, "cannot be read");
    }

    /** Certificates are delivered with those that they were signed by in any order, twice, or with others. */
    @Test
    void certificatesInAnyOrderAndOthersAmongThemAreServed() throws Exception {
        Made made = made("EC", 256, "mine");
        String key = pem(made.keys().getPrivate());
        X509Certificate own = made.certificate();
        X509Certificate other = made("EC", 256, "other").certificate();
        for (Object[] file : List.of(new Object[] {own, other}, new Object[] {other, own}, new Object[] {own, own})) {
            ServerCertificate read = ServerCertificate.read(settings(pem(file), key), now);
            assertThat(read.chain()).containsExactly(own);
            assertThat(read.store().size()).isOne();
        }
    }

    @Test
    void theChainIsPutInOrder() throws Exception {
        Made root = made("EC", 256, "root");
        X509Certificate top = signed("root", root, "root", root);
        Made middle = made("EC", 256, "middle");
        X509Certificate between = signed("middle", middle, "root", root);
        Made leaf = made("EC", 256, "leaf");
        X509Certificate own = signed("leaf", leaf, "middle", middle);
        ServerCertificate read = ServerCertificate.read(
                settings(
                        pem(top, own, between, made("EC", 256, "other").certificate()),
                        pem(leaf.keys().getPrivate())),
                now);
        assertThat(read.chain()).containsExactly(own, between, top);
        assertThat(read.store().getCertificateChain("pages")).hasSize(3);
    }

    private X509Certificate signed(String name, Made keys, String signer, Made signing) throws Exception {
        return new JcaX509CertificateConverter()
                .getCertificate(new JcaX509v3CertificateBuilder(
                                new X500Principal("CN=" + signer),
                                BigInteger.valueOf(name.hashCode()).abs(),
                                Date.from(now.minusSeconds(60)),
                                Date.from(now.plusSeconds(6000)),
                                new X500Principal("CN=" + name),
                                keys.keys().getPublic())
                        .build(new JcaContentSignerBuilder("SHA256withECDSA")
                                .build(signing.keys().getPrivate())));
    }

    /** Whatever became of the files, they are used or there is a sentence. */
    @Test
    void filesThatAreDamagedAreUsedOrThereIsASentence() throws Exception {
        Made made = made("EC", 256, "mine");
        byte[] certificate = pem(made.certificate()).getBytes(StandardCharsets.ISO_8859_1);
        byte[] key = pem(made.keys().getPrivate()).getBytes(StandardCharsets.ISO_8859_1);
        KeyStore store = KeyStore.getInstance("PKCS12");
        store.load(null, null);
        store.setKeyEntry("pages", made.keys().getPrivate(), new char[0], new X509Certificate[] {made.certificate()});
        ByteArrayOutputStream kept = new ByteArrayOutputStream();
        store.store(kept, new char[0]);
        Random chance = new Random(5);
        for (int i = 0; i < 600; i++) {
            PagesSettings settings = settings("", "");
            boolean one = i % 3 == 2;
            Files.write(
                    Path.of(settings.certificate()),
                    one
                            ? damaged(kept.toByteArray(), chance)
                            : i % 3 == 1 ? damaged(certificate, chance) : certificate);
            Files.write(Path.of(settings.key()), i % 3 == 0 ? damaged(key, chance) : key);
            try {
                ServerCertificate.read(one ? new PagesSettings(settings.certificate(), "") : settings, now)
                        .store();
            } catch (ServerCertificate.CannotBeUsed problem) {
                assertThat(problem.getMessage()).endsWith(".");
            }
        }
    }

    private static byte[] damaged(byte[] whole, Random chance) {
        byte[] damaged = Arrays.copyOf(whole, chance.nextBoolean() ? whole.length : chance.nextInt(whole.length));
        if (damaged.length == whole.length) {
            damaged[chance.nextInt(whole.length)] ^= (byte) (1 << chance.nextInt(8));
        }
        return damaged;
    }

    private static void refused(PagesSettings settings, Instant now, String sentence) {
        assertThatThrownBy(() -> ServerCertificate.read(settings, now))
                .isInstanceOf(ServerCertificate.CannotBeUsed.class)
                .hasMessageContaining(sentence);
    }

    /** The certificate that a server shows, to whoever asks. */
    private static X509Certificate shown(int port, String protocol) throws Exception {
        SSLContext anybody = SSLContext.getInstance("TLS");
        anybody.init(null, new TrustManager[] {new Anybody()}, null);
        try (SSLSocket socket = (SSLSocket)
                anybody.getSocketFactory().createSocket(new Socket("127.0.0.1", port), "localhost", port, true)) {
            socket.setEnabledProtocols(new String[] {protocol});
            socket.startHandshake();
            return (X509Certificate) socket.getSession().getPeerCertificates()[0];
        }
    }

    @Test
    void filesThatWereReplacedAreTakenWithoutARestartAndBadOnesAreNot() throws Exception {
        Made first = made("EC", 256, "first");
        PagesSettings settings =
                settings(pem(first.certificate()), pem(first.keys().getPrivate()));
        PagesTls tls = new PagesTls(settings, Instant::now);
        TomcatServletWebServerFactory factory = new TomcatServletWebServerFactory(0);
        tls.customize(factory);
        WebServer server = factory.getWebServer();
        server.start();
        try {
            assertThat(shown(server.getPort(), "TLSv1.3")).isEqualTo(first.certificate());
            assertThat(shown(server.getPort(), "TLSv1.2")).isEqualTo(first.certificate());
            assertThatThrownBy(() -> shown(server.getPort(), "TLSv1.1")).isInstanceOf(IOException.class);
            Made second = made("EC", 256, "second");
            settings(pem(second.certificate()), pem(second.keys().getPrivate()));
            later();
            tls.look();
            assertThat(shown(server.getPort(), "TLSv1.3")).isEqualTo(second.certificate());
            assertThat(tls.trouble()).isEmpty();
            settings(pem(first.certificate()), pem(second.keys().getPrivate()));
            later();
            later();
            tls.look();
            assertThat(tls.trouble()).contains("is not that of the certificate", "go on with the one before");
            assertThat(shown(server.getPort(), "TLSv1.3")).isEqualTo(second.certificate());
        } finally {
            server.stop();
            tls.end();
        }
    }

    private int moved;

    private void later() throws IOException {
        moved++;
        Files.setLastModifiedTime(folder.resolve("pages.pem"), FileTime.from(now.plusSeconds(60L * moved)));
    }

    @Test
    void aStandInIsShownWhereTheCertificateCannotBeUsed() throws Exception {
        PagesTls tls = new PagesTls(settings("nothing", "nothing"), Instant::now);
        TomcatServletWebServerFactory factory = new TomcatServletWebServerFactory(0);
        tls.customize(factory);
        WebServer server = factory.getWebServer();
        server.start();
        try {
            assertThat(shown(server.getPort(), "TLSv1.3")
                            .getSubjectX500Principal()
                            .getName())
                    .contains("stand-in");
            assertThat(tls.trouble()).contains("neither PEM nor");
        } finally {
            server.stop();
            tls.end();
        }
    }

    private static final class Anybody extends X509ExtendedTrustManager {
        @Override
        public void checkClientTrusted(X509Certificate[] chain, String type) {}

        @Override
        public void checkServerTrusted(X509Certificate[] chain, String type) {}

        @Override
        public void checkClientTrusted(X509Certificate[] chain, String type, Socket socket) {}

        @Override
        public void checkServerTrusted(X509Certificate[] chain, String type, Socket socket) {}

        @Override
        public void checkClientTrusted(X509Certificate[] chain, String type, javax.net.ssl.SSLEngine engine) {}

        @Override
        public void checkServerTrusted(X509Certificate[] chain, String type, javax.net.ssl.SSLEngine engine) {}

        @Override
        public X509Certificate[] getAcceptedIssuers() {
            return new X509Certificate[0];
        }
    }
}
