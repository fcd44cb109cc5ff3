package dachshund.links.network;

import java.io.IOException;
import java.io.StringWriter;
import java.math.BigInteger;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.Date;
import org.bouncycastle.asn1.x500.X500Name;
import org.bouncycastle.asn1.x509.BasicConstraints;
import org.bouncycastle.asn1.x509.Extension;
import org.bouncycastle.asn1.x509.GeneralName;
import org.bouncycastle.asn1.x509.GeneralNames;
import org.bouncycastle.cert.jcajce.JcaX509CertificateConverter;
import org.bouncycastle.cert.jcajce.JcaX509v3CertificateBuilder;
import org.bouncycastle.openssl.jcajce.JcaPEMWriter;
import org.bouncycastle.openssl.jcajce.JcaPKCS8Generator;
import org.bouncycastle.operator.jcajce.JcaContentSignerBuilder;

/** Signs certificates of servers, as a plant's own authority does (RFC 5280). */
public final class TestAuthority {

    private final KeyPair keys = keys();
    private final X509Certificate certificate;

    /** A certificate and its key, both PEM. */
    public record Server(String certificate, String key) {}

    public TestAuthority(String name) throws Exception {
        certificate = sign(name, keys, name, keys, true, Duration.ofDays(30));
    }

    /** Its own certificate. */
    public String pem() throws IOException {
        return pem(certificate);
    }

    /** @param valid from yesterday on; before that where it is negative */
    public Server server(Duration valid, String... names) throws Exception {
        KeyPair own = keys();
        X509Certificate signed =
                sign("server", own, certificate.getSubjectX500Principal().getName(), keys, false, valid, names);
        return new Server(pem(signed), pem(new JcaPKCS8Generator(own.getPrivate(), null)));
    }

    private static KeyPair keys() {
        try {
            KeyPairGenerator generator = KeyPairGenerator.getInstance("EC");
            generator.initialize(256);
            return generator.generateKeyPair();
        } catch (java.security.NoSuchAlgorithmException impossible) {
            throw new IllegalStateException(impossible);
        }
    }

    private static X509Certificate sign(
            String name, KeyPair own, String issuer, KeyPair by, boolean authority, Duration valid, String... names)
            throws Exception {
        Instant from = Instant.now().minus(Duration.ofDays(valid.isNegative() ? 60 : 1));
        JcaX509v3CertificateBuilder builder = new JcaX509v3CertificateBuilder(
                new X500Name(issuer.startsWith("CN=") ? issuer : "CN=" + issuer),
                BigInteger.valueOf(System.nanoTime()),
                Date.from(from),
                Date.from(Instant.now().plus(valid)),
                new X500Name("CN=" + name),
                own.getPublic());
        builder.addExtension(Extension.basicConstraints, true, new BasicConstraints(authority));
        if (names.length > 0) {
            GeneralName[] all = Arrays.stream(names)
                    .map(each -> new GeneralName(
                            each.matches("[0-9.]+") ? GeneralName.iPAddress : GeneralName.dNSName, each))
                    .toArray(GeneralName[]::new);
            builder.addExtension(Extension.subjectAlternativeName, false, new GeneralNames(all));
        }
        return new JcaX509CertificateConverter()
                .getCertificate(builder.build(new JcaContentSignerBuilder("SHA256withECDSA").build(by.getPrivate())));
    }

    private static String pem(Object object) throws IOException {
        StringWriter text = new StringWriter();
        try (JcaPEMWriter writer = new JcaPEMWriter(text)) {
            writer.writeObject(object);
        }
        return text.toString();
    }
}
