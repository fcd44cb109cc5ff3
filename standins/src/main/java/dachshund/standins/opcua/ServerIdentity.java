package dachshund.standins.opcua;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.security.KeyStore;
import java.security.PrivateKey;
import java.security.cert.Certificate;
import java.security.cert.X509Certificate;
import java.util.UUID;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateBuilder;
import org.eclipse.milo.opcua.stack.core.util.SelfSignedCertificateGenerator;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Key and certificate of the simulated plant's servers. As a real server it keeps them over a restart, in the file that the
 * system property {@code standins.identity} names; without one they are this process's own. To make them takes seconds.
 */
record ServerIdentity(KeyPair keys, X509Certificate certificate) {

    private static final Logger LOG = LoggerFactory.getLogger(ServerIdentity.class);
    private static final String PROPERTY = "standins.identity";
    private static final String ALIAS = "plant";
    private static final char[] PASSWORD = "quillmoor".toCharArray(); // simulated, and nobody's secret

    /** Made when it is asked for the first time. */
    private static final class Holder {
        private static final ServerIdentity OF_ALL = kept();
    }

    static ServerIdentity ofAll() {
        return Holder.OF_ALL;
    }

    private static ServerIdentity kept() {
        String named = System.getProperty(PROPERTY, "");
        try {
            return named.isEmpty() ? made() : kept(Path.of(named).toAbsolutePath());
        } catch (Exception e) { // the library declares no narrower one
            throw new IllegalStateException("The plant's certificate could not be made.", e);
        }
    }

    /**
     * Several processes may come at once: what one of them has kept counts for those that come later. One that cannot be read
     * is made anew: a simulated plant is to start.
     */
    static ServerIdentity kept(Path file) throws Exception {
        if (Files.exists(file)) {
            try {
                return read(file);
            } catch (IOException | GeneralSecurityException | RuntimeException damaged) {
                LOG.warn("The plant's certificate is made anew; the one in {} cannot be read.", file, damaged);
            }
        }
        ServerIdentity made = made();
        KeyStore store = KeyStore.getInstance("PKCS12");
        store.load(null, PASSWORD);
        store.setKeyEntry(ALIAS, made.keys.getPrivate(), PASSWORD, new Certificate[] {made.certificate});
        Files.createDirectories(file.getParent());
        Path next = file.resolveSibling(file.getFileName() + "." + UUID.randomUUID());
        try (var out = Files.newOutputStream(next)) {
            store.store(out, PASSWORD);
        }
        Files.move(next, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        return made;
    }

    private static ServerIdentity read(Path file) throws IOException, GeneralSecurityException {
        KeyStore store = KeyStore.getInstance("PKCS12");
        try (var in = Files.newInputStream(file)) {
            store.load(in, PASSWORD);
        }
        X509Certificate certificate = (X509Certificate) store.getCertificate(ALIAS);
        return new ServerIdentity(
                new KeyPair(certificate.getPublicKey(), (PrivateKey) store.getKey(ALIAS, PASSWORD)), certificate);
    }

    private static ServerIdentity made() throws Exception {
        KeyPair keys = SelfSignedCertificateGenerator.generateRsaKeyPair(2048);
        return new ServerIdentity(
                keys,
                new SelfSignedCertificateBuilder(keys)
                        .setCommonName("Quillmoor Pellet Works")
                        .setOrganization("Quillmoor")
                        .setApplicationUri(PelletWorksServer.NAMESPACE + ":server")
                        .addDnsName("localhost")
                        .addIpAddress("127.0.0.1")
                        .build());
    }
}
