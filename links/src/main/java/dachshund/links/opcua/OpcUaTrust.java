package dachshund.links.opcua;

import java.io.ByteArrayOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.security.KeyStore;
import java.security.MessageDigest;
import java.security.PrivateKey;
import java.security.Security;
import java.security.cert.Certificate;
import java.security.cert.CertificateEncodingException;
import java.security.cert.CertificateException;
import java.security.cert.CertificateFactory;
import java.security.cert.X509Certificate;
import java.time.Instant;
import java.time.Period;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.bouncycastle.jce.provider.BouncyCastleProvider;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateBuilder;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateGenerator;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Our own certificate, and those of servers: seen, and accepted by a person. Files in one folder: {@code own.p12},
 * {@code seen/} and {@code trusted/} with a DER file for each, named by its SHA-256 fingerprint. A certificate is
 * trusted by itself, not by its issuer, so every new one is looked at. Safe for use by many threads.
 */
public final class OpcUaTrust {

    /** Application URI in our certificate (OPC 10000-6, 6.2.2). */
    public static final String APPLICATION_URI = "urn:dachshund:client";

    private static final Logger LOG = LoggerFactory.getLogger(OpcUaTrust.class);

    private static final char[] PASSWORD = "dachshund".toCharArray(); // the file is readable by its owner only
    private static final String ALIAS = "own";

    static {
        // The policy Aes256-Sha256-RsaPss asks for signatures that the JDK has under another name only.
        if (Security.getProvider(BouncyCastleProvider.PROVIDER_NAME) == null) {
            Security.addProvider(new BouncyCastleProvider());
        }
    }

    private final Path folder;
    private final Object noting = new Object();
    private Own own;

    /** Our certificate with its key. */
    public record Own(X509Certificate certificate, KeyPair keys) {}

    /** A server's certificate as a person compares it. */
    public record Seen(
            String fingerprint,
            String sha1,
            String subject,
            String issuer,
            Instant from,
            Instant until,
            boolean trusted) {}

    public OpcUaTrust(Path folder) {
        this.folder = folder;
    }

    /**
     * Made at the first call ever: RSA 2048, SHA-256, valid for ten years. One that cannot be read is not replaced, since servers
     * trust it.
     *
     * @throws IllegalStateException with a sentence, where it can be neither read nor made
     */
    public synchronized Own own() {
        if (own == null) {
            Path file = folder.resolve("own.p12");
            own = Files.exists(file) ? read(file) : make(file);
        }
        return own;
    }

    private static Own read(Path file) {
        try (var in = Files.newInputStream(file)) {
            KeyStore store = KeyStore.getInstance("PKCS12");
            store.load(in, PASSWORD);
            X509Certificate certificate = (X509Certificate) store.getCertificate(ALIAS);
            PrivateKey key = (PrivateKey) store.getKey(ALIAS, PASSWORD);
            if (certificate == null || key == null) {
                throw new GeneralSecurityException("it is not in there");
            }
            return new Own(certificate, new KeyPair(certificate.getPublicKey(), key));
        } catch (IOException | GeneralSecurityException | RuntimeException damaged) {
            throw new IllegalStateException(
                    "Our own certificate in " + file + " cannot be read (" + words(damaged)
                            + "). Bring it back from a backup, or remove the file: another one is made then, which servers have to accept anew.",
                    damaged);
        }
    }

    private static Own make(Path file) {
        try {
            KeyPair keys = SelfSignedCertificateGenerator.generateRsaKeyPair(2048);
            X509Certificate certificate = new SelfSignedCertificateBuilder(keys)
                    .setCommonName("Dachshund")
                    .setOrganization("Dachshund")
                    .setApplicationUri(APPLICATION_URI)
                    .addDnsName("localhost")
                    .setValidityPeriod(Period.ofYears(10))
                    .build();
            KeyStore store = KeyStore.getInstance("PKCS12");
            store.load(null, PASSWORD);
            store.setKeyEntry(ALIAS, keys.getPrivate(), PASSWORD, new Certificate[] {certificate});
            ByteArrayOutputStream bytes = new ByteArrayOutputStream();
            store.store(bytes, PASSWORD);
            write(file, bytes.toByteArray());
            return new Own(certificate, keys);
        } catch (Exception problem) { // the library declares no narrower one
            throw new IllegalStateException(
                    "Our own certificate could not be made in " + file.getParent() + " (" + words(problem) + ").",
                    problem);
        }
    }

    private static String words(Exception problem) {
        if (problem instanceof EOFException) {
            return "it breaks off";
        }
        return problem.getMessage() == null || problem.getMessage().isBlank()
                ? problem.getClass().getSimpleName()
                : problem.getClass().getSimpleName() + ": " + problem.getMessage();
    }

    /** All of it or nothing, whenever this process or the machine ends; for its owner's eyes only. */
    private static void write(Path file, byte[] bytes) throws IOException {
        Files.createDirectories(file.getParent());
        Path next = file.resolveSibling(file.getFileName() + ".new");
        Files.deleteIfExists(next);
        Files.createFile(next, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
        Files.write(next, bytes, StandardOpenOption.SYNC, StandardOpenOption.WRITE);
        Files.move(next, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    }

    /** SHA-256 over the whole certificate, in hexadecimal. */
    public static String fingerprint(X509Certificate certificate) {
        return digest("SHA-256", certificate);
    }

    /** SHA-1 over the whole certificate: the thumbprint that most server tools show (OPC 10000-6, 6.2.2). */
    static String sha1(X509Certificate certificate) {
        return digest("SHA-1", certificate);
    }

    private static String digest(String algorithm, X509Certificate certificate) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance(algorithm).digest(certificate.getEncoded()));
        } catch (GeneralSecurityException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    /**
     * Whether a person accepted this very certificate; notes it as seen. That it cannot be noted, as on a full disk, does not
     * change the answer.
     */
    public boolean trusts(X509Certificate certificate) {
        String name = fingerprint(certificate) + ".der";
        try {
            see(folder.resolve("seen").resolve(name), certificate.getEncoded());
        } catch (IOException cannot) {
            LOG.warn("That a server's certificate was seen could not be noted: {}", cannot.toString());
        } catch (CertificateEncodingException e) {
            return false;
        }
        return Files.exists(folder.resolve("trusted").resolve(name));
    }

    /** Several connections may see one at once; none waits here for our own to be made. */
    private void see(Path file, byte[] encoded) throws IOException {
        synchronized (noting) {
            if (!Files.exists(file) || !Arrays.equals(Files.readAllBytes(file), encoded)) {
                write(file, encoded);
            }
        }
    }

    /** All that were seen, the newest to begin first. */
    public List<Seen> seen() {
        List<Seen> found = new ArrayList<>();
        Path seen = folder.resolve("seen");
        if (Files.isDirectory(seen)) {
            try (Stream<Path> files = Files.list(seen)) {
                for (Path file :
                        files.filter(each -> each.toString().endsWith(".der")).toList()) {
                    describe(file).ifPresent(found::add);
                }
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }
        found.sort(Comparator.comparing(Seen::trusted)
                .thenComparing(Comparator.comparing(Seen::from).reversed()));
        return found;
    }

    /**
     * Our own certificate as a person compares it at the server.
     *
     * @throws IllegalStateException as {@link #own}
     */
    public Seen describeOwn() {
        return describe(own().certificate(), true);
    }

    private static Seen describe(X509Certificate certificate, boolean trusted) {
        return new Seen(
                fingerprint(certificate),
                sha1(certificate),
                certificate.getSubjectX500Principal().getName(),
                certificate.getIssuerX500Principal().getName(),
                certificate.getNotBefore().toInstant(),
                certificate.getNotAfter().toInstant(),
                trusted);
    }

    private Optional<Seen> describe(Path file) throws IOException {
        try (var in = Files.newInputStream(file)) {
            X509Certificate certificate =
                    (X509Certificate) CertificateFactory.getInstance("X.509").generateCertificate(in);
            return Optional.of(
                    describe(certificate, Files.exists(folder.resolve("trusted").resolve(file.getFileName()))));
        } catch (CertificateException damaged) {
            return Optional.empty();
        }
    }

    /**
     * A person accepts a certificate that was seen.
     *
     * @throws IllegalArgumentException with a sentence, where it was not seen, or that cannot be noted
     */
    public void trust(String fingerprint) {
        move(fingerprint, true);
    }

    /**
     * A person takes the trust back; the next connection asks again.
     *
     * @throws IllegalArgumentException as {@link #trust}
     */
    public void distrust(String fingerprint) {
        move(fingerprint, false);
    }

    private void move(String fingerprint, boolean trust) {
        if (!fingerprint.matches("[0-9a-f]{64}")
                || !Files.exists(folder.resolve("seen").resolve(fingerprint + ".der"))) {
            throw new IllegalArgumentException("No such certificate was seen.");
        }
        Path trusted = folder.resolve("trusted").resolve(fingerprint + ".der");
        synchronized (noting) {
            try {
                if (trust) {
                    write(trusted, Files.readAllBytes(folder.resolve("seen").resolve(fingerprint + ".der")));
                } else {
                    Files.deleteIfExists(trusted);
                }
            } catch (IOException cannot) {
                throw new IllegalArgumentException(
                        "This cannot be noted in " + folder + " (" + words(cannot) + "), and nothing is changed.",
                        cannot);
            }
        }
    }
}
