package dachshund.links.network;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.cert.Certificate;
import java.security.cert.CertificateException;
import java.security.cert.CertificateFactory;
import java.util.Collection;
import javax.net.ssl.ManagerFactoryParameters;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManager;
import javax.net.ssl.TrustManagerFactory;
import javax.net.ssl.TrustManagerFactorySpi;
import javax.net.ssl.X509ExtendedTrustManager;

/** Which authorities are believed when a server shows its certificate. */
public final class Trust {

    private Trust() {}

    /**
     * The authorities of a text. A server of another one is refused with {@link UnknownAuthority}.
     *
     * @param pem certificates in PEM (RFC 7468); blank for the authorities that this Java believes
     * @throws GeneralSecurityException with a sentence, where the text cannot be read
     */
    public static TrustManagerFactory authorities(String pem) throws GeneralSecurityException {
        TrustManagerFactory plain = plain(pem);
        TrustManager[] telling = plain.getTrustManagers();
        for (int i = 0; i < telling.length; i++) {
            telling[i] = telling[i] instanceof X509ExtendedTrustManager each ? new TellingTrust(each) : telling[i];
        }
        TrustManagerFactorySpi made = new TrustManagerFactorySpi() {
            @Override
            protected void engineInit(KeyStore none) {}

            @Override
            protected void engineInit(ManagerFactoryParameters none) {}

            @Override
            protected TrustManager[] engineGetTrustManagers() {
                return telling.clone();
            }
        };
        return new TrustManagerFactory(made, plain.getProvider(), plain.getAlgorithm()) {};
    }

    private static TrustManagerFactory plain(String pem) throws GeneralSecurityException {
        TrustManagerFactory trust = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
        if (pem.isBlank()) {
            trust.init((KeyStore) null);
            return trust;
        }
        try {
            KeyStore store = KeyStore.getInstance(KeyStore.getDefaultType());
            store.load(null, null);
            Collection<? extends Certificate> all = CertificateFactory.getInstance("X.509")
                    .generateCertificates(new ByteArrayInputStream(pem.getBytes(StandardCharsets.UTF_8)));
            int n = 0;
            for (Certificate certificate : all) {
                store.setCertificateEntry("authority" + n++, certificate);
            }
            if (n == 0) {
                throw new CertificateException("none");
            }
            trust.init(store);
            return trust;
        } catch (IOException | CertificateException unread) {
            throw new GeneralSecurityException(
                    "The certificate of the authority cannot be read: it should begin with -----BEGIN CERTIFICATE-----.",
                    unread);
        }
    }

    /** @throws GeneralSecurityException with a sentence, where the text cannot be read */
    public static SSLContext context(String pem) throws GeneralSecurityException {
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(null, authorities(pem).getTrustManagers(), null);
        return context;
    }

    /** A check of a setting: empty where the text can be read, or is blank; else a sentence. */
    public static String problem(String pem) {
        try {
            authorities(pem);
            return "";
        } catch (GeneralSecurityException unread) {
            return unread.getMessage();
        }
    }
}
