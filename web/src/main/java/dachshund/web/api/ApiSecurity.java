package dachshund.web.api;

import com.fasterxml.jackson.databind.ObjectMapper;
import dachshund.office.audit.Audit;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import java.util.Optional;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.annotation.Order;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpMethod;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.config.annotation.web.configurers.AbstractHttpConfigurer;
import org.springframework.security.config.http.SessionCreationPolicy;
import org.springframework.security.core.authority.SimpleGrantedAuthority;
import org.springframework.security.core.context.SecurityContext;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.authentication.UsernamePasswordAuthenticationFilter;
import org.springframework.web.filter.OncePerRequestFilter;

/** The API is entered with a token (RFC 6750), never with a session; refusals are problem details (RFC 9457). */
@Configuration
class ApiSecurity {

    @Bean
    @Order(1)
    SecurityFilterChain api(HttpSecurity http, ApiTokens tokens, ObjectMapper json, Audit audit) throws Exception {
        return http.securityMatcher("/api/**")
                .csrf(AbstractHttpConfigurer::disable) // no cookie authenticates here
                .sessionManagement(sessions -> sessions.sessionCreationPolicy(SessionCreationPolicy.STATELESS))
                .authorizeHttpRequests(requests -> requests.requestMatchers("/api/v1/openapi.json")
                        .permitAll()
                        .requestMatchers(HttpMethod.GET)
                        .hasAuthority("SCOPE_read")
                        .requestMatchers("/api/v1/values/read")
                        .hasAuthority("SCOPE_read")
                        .requestMatchers("/api/v1/transactions/**")
                        .hasAuthority("SCOPE_run")
                        .anyRequest()
                        .hasAnyAuthority("SCOPE_write-kept", "SCOPE_write-plant"))
                .addFilterBefore(new TokenFilter(tokens, json), UsernamePasswordAuthenticationFilter.class)
                .exceptionHandling(problems -> problems.authenticationEntryPoint((request, response, problem) -> {
                            if (request.getHeader("Authorization") != null) {
                                audit.noteOnce(
                                        "a token that is not known or revoked",
                                        "was refused",
                                        "from " + request.getRemoteAddr());
                            }
                            response.setHeader("WWW-Authenticate", "Bearer");
                            write(
                                    response,
                                    json,
                                    HttpStatus.UNAUTHORIZED,
                                    "A token is needed",
                                    "Send the header Authorization: Bearer, with a token from Plant, API and tokens.");
                        })
                        .accessDeniedHandler((request, response, problem) -> {
                            refused(audit, String.valueOf(request.getRemoteUser()), request);
                            write(
                                    response,
                                    json,
                                    HttpStatus.FORBIDDEN,
                                    "Not in the scope of this token",
                                    "This token may not do this. Its scopes are listed under Plant, API and tokens.");
                        }))
                .build();
    }

    private static void refused(Audit audit, String who, HttpServletRequest request) {
        audit.noteOnce(
                who,
                "was refused",
                request.getMethod() + " " + request.getServletPath() + " from " + request.getRemoteAddr());
    }

    private static void write(
            HttpServletResponse response, ObjectMapper json, HttpStatus status, String title, String detail)
            throws IOException {
        ProblemDetail problem = ProblemDetail.forStatusAndDetail(status, detail);
        problem.setTitle(title);
        response.setStatus(status.value());
        response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
        json.writeValue(response.getOutputStream(), problem);
    }

    private static final class TokenFilter extends OncePerRequestFilter {

        private final ApiTokens tokens;
        private final ObjectMapper json;

        private TokenFilter(ApiTokens tokens, ObjectMapper json) {
            this.tokens = tokens;
            this.json = json;
        }

        @Override
        protected boolean shouldNotFilterAsyncDispatch() {
            return false; // a stream is dispatched again when it ends
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            String header = request.getHeader("Authorization");
            if (header != null && header.regionMatches(true, 0, "Bearer ", 0, 7)) {
                Optional<ApiTokens.Token> token;
                try {
                    token = tokens.find(header.substring(7).strip());
                } catch (DataAccessException away) {
                    write(
                            response,
                            json,
                            HttpStatus.SERVICE_UNAVAILABLE,
                            "Our own database is away",
                            "Tokens cannot be checked until it is back. Recording goes on.");
                    return;
                }
                token.ifPresent(found -> {
                    SecurityContext context = SecurityContextHolder.createEmptyContext();
                    List<SimpleGrantedAuthority> scopes = found.scopes().stream()
                            .map(scope -> new SimpleGrantedAuthority("SCOPE_" + scope.id()))
                            .toList();
                    context.setAuthentication(
                            UsernamePasswordAuthenticationToken.authenticated("token " + found.name(), null, scopes));
                    SecurityContextHolder.setContext(context);
                });
            }
            chain.doFilter(request, response);
        }
    }
}
