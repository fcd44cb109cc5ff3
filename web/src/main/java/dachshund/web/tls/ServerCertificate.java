package dachshund.web.tls;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.Reader;
import java.io.StringReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.KeyPair;
import java.security.KeyStore;
import java.security.PrivateKey;
import java.security.PublicKey;
import java.security.Signature;
import java.security.cert.Certificate;
import java.security.cert.CertificateFactory;
import java.security.cert.X509Certificate;
import java.security.spec.PKCS8EncodedKeySpec;
import java.time.Instant;
import java.time.Period;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import org.bouncycastle.asn1.pkcs.PrivateKeyInfo;
import org.bouncycastle.asn1.x509.SubjectPublicKeyInfo;
import org.bouncycastle.asn1.x9.X9ObjectIdentifiers;
import org.bouncycastle.openssl.PEMKeyPair;
import org.bouncycastle.openssl.PEMParser;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateBuilder;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateGenerator;

/**
 * A certificate that a server shows, with its key and the certificates that it was signed by. Whatever keeps files from being
 * used is a sentence.
 *
 * @param chain the server's own first
 */
record ServerCertificate(PrivateKey key, List<X509Certificate> chain) {

    private static final String PROBE = "dachshund";

    /** Why files cannot be used, in a sentence. */
    static final class CannotBeUsed extends Exception {
        private static final long serialVersionUID = 1;

        CannotBeUsed(String sentence, Throwable cause) {
            super(sentence, cause);
        }
    }

    static ServerCertificate read(PagesSettings settings, Instant now) throws CannotBeUsed {
        Path file = Path.of(settings.certificate().strip());
        byte[] bytes = bytes(file, "certificate");
        String text = new String(bytes, StandardCharsets.ISO_8859_1);
        ServerCertificate read =
                text.contains("-----BEGIN") ? ofPem(file, text, settings) : ofPkcs12(file, bytes, settings);
        X509Certificate own = read.chain().get(0);
        if (now.isAfter(own.getNotAfter().toInstant())) {
            throw new CannotBeUsed(
                    "The certificate in " + file + " ended on "
                            + own.getNotAfter().toInstant() + ".",
                    null);
        }
        if (now.isBefore(own.getNotBefore().toInstant())) {
            throw new CannotBeUsed(
                    "The certificate in " + file + " begins on "
                            + own.getNotBefore().toInstant() + " only. Is the clock of this machine right?",
                    null);
        }
        return read;
    }

    private static byte[] bytes(Path file, String what) throws CannotBeUsed {
        try {
            return Files.readAllBytes(file);
        } catch (IOException cannot) {
            throw new CannotBeUsed(
                    "The file " + file + " with the " + what + " of the pages cannot be read: "
                            + cannot.getClass().getSimpleName().replace("Exception", "") + ".",
                    cannot);
        }
    }

    private static ServerCertificate ofPem(Path file, String text, PagesSettings settings) throws CannotBeUsed {
        List<X509Certificate> found = new ArrayList<>();
        try {
            for (Certificate each : CertificateFactory.getInstance("X.509")
                    .generateCertificates(
                            new ByteArrayInputStream(text.substring(text.indexOf("-----BEGIN CERTIFICATE"))
                                    .getBytes(StandardCharsets.ISO_8859_1)))) {
                found.add((X509Certificate) each);
            }
        } catch (GeneralSecurityException | IndexOutOfBoundsException unread) {
            throw new CannotBeUsed("The file " + file + " holds no certificate that can be read.", unread);
        }
        if (settings.key().isBlank()) {
            throw new CannotBeUsed(
                    "There is a certificate for the pages, and no key: set dachshund.pages.key to its file.", null);
        }
        Path keyFile = Path.of(settings.key().strip());
        String keyText = new String(bytes(keyFile, "key"), StandardCharsets.ISO_8859_1);
        CannotBeUsed unread = null;
        for (X509Certificate each : found) {
            try {
                PrivateKey key = key(keyFile, keyText, each.getPublicKey());
                if (belong(key, each.getPublicKey())) {
                    return new ServerCertificate(key, chain(each, found));
                }
            } catch (CannotBeUsed problem) {
                unread = problem;
            }
        }
        throw unread != null
                ? unread
                : new CannotBeUsed("The key in " + keyFile + " is not that of the certificate in " + file + ".", null);
    }

    /** The server's own and each that signed the one before, in whatever order they stand in the file, and no others. */
    private static List<X509Certificate> chain(X509Certificate own, List<X509Certificate> found) {
        List<X509Certificate> chain = new ArrayList<>();
        for (X509Certificate next = own; next != null; next = signer(next, found, chain)) {
            chain.add(next);
        }
        return List.copyOf(chain);
    }

    private static X509Certificate signer(
            X509Certificate signed, List<X509Certificate> found, List<X509Certificate> taken) {
        return found.stream()
                .filter(each -> each.getSubjectX500Principal().equals(signed.getIssuerX500Principal()))
                .filter(each -> !taken.contains(each) && !each.equals(signed))
                .findFirst()
                .orElse(null);
    }

    private static PrivateKey key(Path file, String text, PublicKey certified) throws CannotBeUsed {
        try (Reader in = new StringReader(text);
                PEMParser parser = new PEMParser(in)) {
            for (Object found = parser.readObject(); found != null; found = parser.readObject()) {
                if (found instanceof PEMKeyPair pair) {
                    return key(pair.getPrivateKeyInfo(), certified);
                }
                if (found instanceof PrivateKeyInfo info) {
                    return key(info, certified);
                }
                if (found.getClass().getSimpleName().contains("Encrypted")) {
                    throw new CannotBeUsed(
                            "The key in " + file
                                    + " is encrypted. Give it without a passphrase, readable by its owner alone, or use a PKCS#12 file.",
                            null);
                }
            }
        } catch (IOException | GeneralSecurityException | RuntimeException unread) {
            throw new CannotBeUsed("The file " + file + " holds no private key that can be read.", unread);
        }
        throw new CannotBeUsed("The file " + file + " holds no private key.", null);
    }

    private static PrivateKey key(PrivateKeyInfo info, PublicKey certified)
            throws IOException, GeneralSecurityException {
        boolean curve = X9ObjectIdentifiers.id_ecPublicKey.equals(
                info.getPrivateKeyAlgorithm().getAlgorithm());
        if (curve && info.getPrivateKeyAlgorithm().getParameters() == null) {
            // A key that does not say its curve (SEC 1 lets it out) has that of the certificate.
            return key(
                    new PrivateKeyInfo(
                            SubjectPublicKeyInfo.getInstance(certified.getEncoded())
                                    .getAlgorithm(),
                            info.parsePrivateKey()),
                    certified);
        }
        return KeyFactory.getInstance(curve ? "EC" : "RSA").generatePrivate(new PKCS8EncodedKeySpec(info.getEncoded()));
    }

    private static ServerCertificate ofPkcs12(Path file, byte[] bytes, PagesSettings settings) throws CannotBeUsed {
        char[] password = settings.key().isBlank()
                ? new char[0]
                : new String(bytes(Path.of(settings.key().strip()), "password"), StandardCharsets.UTF_8)
                        .strip()
                        .toCharArray();
        try {
            KeyStore store = KeyStore.getInstance("PKCS12");
            store.load(new ByteArrayInputStream(bytes), password);
            for (String alias : Collections.list(store.aliases())) {
                if (store.isKeyEntry(alias)) {
                    List<X509Certificate> chain = new ArrayList<>();
                    for (Certificate each : store.getCertificateChain(alias)) {
                        chain.add((X509Certificate) each);
                    }
                    return new ServerCertificate((PrivateKey) store.getKey(alias, password), List.copyOf(chain));
                }
            }
        } catch (IOException | GeneralSecurityException | RuntimeException cannot) {
            throw new CannotBeUsed(
                    "The file " + file
                            + " is neither PEM nor a PKCS#12 file that the password in dachshund.pages.key opens.",
                    cannot);
        }
        throw new CannotBeUsed("The PKCS#12 file " + file + " holds no private key.", null);
    }

    private static boolean belong(PrivateKey key, PublicKey certified) {
        String how =
                switch (key.getAlgorithm()) {
                    case "RSA" -> "SHA256withRSA";
                    case "EC" -> "SHA256withECDSA";
                    default -> key.getAlgorithm();
                };
        try {
            Signature signature = Signature.getInstance(how);
            signature.initSign(key);
            signature.update(PROBE.getBytes(StandardCharsets.UTF_8));
            byte[] signed = signature.sign();
            signature.initVerify(certified);
            signature.update(PROBE.getBytes(StandardCharsets.UTF_8));
            return signature.verify(signed);
        } catch (GeneralSecurityException other) {
            return false;
        }
    }

    /** One for a while, signed by itself: what is sent is not in clear, and browsers warn. */
    static ServerCertificate standIn(String host) {
        try {
            KeyPair keys = SelfSignedCertificateGenerator.generateEcKeyPair(256);
            return new ServerCertificate(
                    keys.getPrivate(),
                    List.of(new SelfSignedCertificateBuilder(keys)
                            .setSignatureAlgorithm(SelfSignedCertificateBuilder.SA_SHA256_ECDSA)
                            .setCommonName("Dachshund, stand-in")
                            .setApplicationUri("urn:dachshund:pages")
                            .addDnsName("localhost")
                            .addDnsName(host)
                            .addIpAddress("127.0.0.1")
                            .setValidityPeriod(Period.ofDays(90))
                            .build()));
        } catch (Exception impossible) { // the library declares no narrower one
            throw new IllegalStateException(impossible);
        }
    }

    KeyStore store() {
        try {
            KeyStore store = KeyStore.getInstance("PKCS12");
            store.load(null, new char[0]);
            store.setKeyEntry("pages", key, new char[0], chain.toArray(Certificate[]::new));
            return store;
        } catch (IOException | GeneralSecurityException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    Instant until() {
        return chain.get(0).getNotAfter().toInstant();
    }
}
