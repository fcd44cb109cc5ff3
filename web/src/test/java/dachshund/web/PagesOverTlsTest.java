package dachshund.web;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.net.CookieManager;
import java.net.Socket;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.cert.X509Certificate;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLEngine;
import javax.net.ssl.SSLParameters;
import javax.net.ssl.TrustManager;
import javax.net.ssl.X509ExtendedTrustManager;
import org.junit.jupiter.api.Test;

/** The whole application with a certificate that cannot be used: it records, its pages are served over TLS all the same, and say why. */
class PagesOverTlsTest {

    private final CookieManager cookies = new CookieManager();

    @Test
    void cookiesAreSecureTransportIsStrictAndATroubleIsSaid() throws Exception {
        Path nothing = Files.writeString(Files.createTempFile("dachshund", ".pem"), "nothing");
        try (Site site = new Site(true, "--dachshund.pages.certificate=" + nothing)) {
            HttpClient client = client();
            HttpResponse<String> form = get(client, site, "/sign-in");
            assertThat(form.headers().firstValue("Strict-Transport-Security"))
                    .hasValueSatisfying(value ->
                            assertThat(value).contains("max-age=31536000").doesNotContain("includeSubDomains"));
            assertThat(form.headers().allValues("Set-Cookie")).singleElement().satisfies(cookie -> assertThat(cookie)
                    .startsWith("XSRF-TOKEN=")
                    .contains("; Secure"));
            String token = form.body().replaceAll("(?s).*name=\"_csrf\"[^>]*value=\"([^\"]+)\".*", "$1");
            HttpResponse<String> in = client.send(
                    HttpRequest.newBuilder(URI.create(address(site, "/sign-in")))
                            .header("Content-Type", "application/x-www-form-urlencoded")
                            .POST(HttpRequest.BodyPublishers.ofString("username=engineer&password=engineer-demo&_csrf="
                                    + URLEncoder.encode(token, StandardCharsets.UTF_8)))
                            .build(),
                    HttpResponse.BodyHandlers.ofString());
            assertThat(in.headers().allValues("Set-Cookie")).anySatisfy(cookie -> assertThat(cookie)
                    .startsWith("JSESSIONID=")
                    .contains("; Secure", "; HttpOnly", "SameSite=Strict"));
            assertThat(get(client, site, "/plant").body())
                    .contains("id=\"certificate-trouble\"", "neither PEM nor a PKCS#12 file");
        } finally {
            Files.delete(nothing);
        }
    }

    private static String address(Site site, String path) {
        return site.address(path).replace("http:", "https:");
    }

    private static HttpResponse<String> get(HttpClient client, Site site, String path)
            throws IOException, InterruptedException {
        return client.send(
                HttpRequest.newBuilder(URI.create(address(site, path))).build(), HttpResponse.BodyHandlers.ofString());
    }

    /** Believes any certificate. */
    private HttpClient client() throws Exception {
        SSLContext anybody = SSLContext.getInstance("TLS");
        anybody.init(
                null,
                new TrustManager[] {
                    new X509ExtendedTrustManager() {
                        @Override
                        public void checkClientTrusted(X509Certificate[] chain, String type) {}

                        @Override
                        public void checkServerTrusted(X509Certificate[] chain, String type) {}

                        @Override
                        public void checkClientTrusted(X509Certificate[] chain, String type, Socket socket) {}

                        @Override
                        public void checkServerTrusted(X509Certificate[] chain, String type, Socket socket) {}

                        @Override
                        public void checkClientTrusted(X509Certificate[] chain, String type, SSLEngine engine) {}

                        @Override
                        public void checkServerTrusted(X509Certificate[] chain, String type, SSLEngine engine) {}

                        @Override
                        public X509Certificate[] getAcceptedIssuers() {
                            return new X509Certificate[0];
                        }
                    }
                },
                null);
        return HttpClient.newBuilder()
                .sslContext(anybody)
                .sslParameters(new SSLParameters())
                .cookieHandler(cookies)
                .build();
    }
}
