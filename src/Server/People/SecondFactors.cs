using System.Security.Cryptography;
using NodaTime;
using Npgsql;
using OtpNet;
using QRCoder;
using SteadyLark.Store.Basics;
using SteadyLark.Store.People;

namespace SteadyLark.Server.People;

/// <summary>What an authenticator app needs.</summary>
/// <param name="Secret">For typing, in groups of four (RFC 4648 § 6, Base32).</param>
/// <param name="Uri">The same as a link that authenticator apps open.</param>
/// <param name="Picture">The link as a QR code: an SVG as a data: address.</param>
public sealed record SecondFactorSecret(string Secret, string Uri, string Picture);

/// <summary>Codes of authenticator apps (TOTP, RFC 6238: SHA-1, 6 digits, 30 seconds) and recovery codes.</summary>
public static class SecondFactors
{
    /// <summary>Recovery codes made at once.</summary>
    public const int RecoveryCodes = 10;

    private const int StepSeconds = 30;

    public static async Task<SecondFactorSecret> Begin(NpgsqlConnection db, long userId, string company, string login)
    {
        var secret = RandomNumberGenerator.GetBytes(20);
        await SecondFactorStore.Begin(db, userId, secret);
        var text = Base32Encoding.ToString(secret).TrimEnd('=');
        var issuer = Uri.EscapeDataString(company);
        var uri = $"otpauth://totp/{issuer}:{Uri.EscapeDataString(login)}?secret={text}&issuer={issuer}";
        using var code = QRCodeGenerator.GenerateQrCode(uri, QRCodeGenerator.ECCLevel.M);
        var svg = new SvgQRCode(code).GetGraphic(4, "#000000", "#ffffff");
        return new SecondFactorSecret(
            string.Join(' ', text.Chunk(4).Select(c => new string(c))),
            uri,
            $"data:image/svg+xml;base64,{Convert.ToBase64String(System.Text.Encoding.UTF8.GetBytes(svg))}"
        );
    }

    /// <summary>Whether a code is valid: of the current time step or an adjacent one, and not used before.</summary>
    public static async Task<bool> Accepts(NpgsqlConnection db, long userId, string? code, Instant now)
    {
        var digits = new string((code ?? "").Where(char.IsAsciiDigit).ToArray());
        if (await SecondFactorStore.Of(db, userId) is not { } factor)
        {
            return false;
        }

        if (digits.Length == 6 && digits.Length == (code ?? "").Count(c => !char.IsWhiteSpace(c)))
        {
            return Step(factor.Secret, digits, now) is { } step && await SecondFactorStore.UseStep(db, userId, step);
        }

        return factor.Confirmed && await SecondFactorStore.UseRecoveryCode(db, userId, HashOf(code ?? ""), now);
    }

    /// <summary>The time step of this code, or null.</summary>
    public static long? Step(byte[] secret, string digits, Instant now) =>
        new Totp(secret, step: StepSeconds).VerifyTotp(
            now.ToDateTimeUtc(),
            digits,
            out var step,
            VerificationWindow.RfcSpecifiedNetworkDelay
        )
            ? step
            : null;

    /// <summary>Enables a second factor and creates its recovery codes.</summary>
    /// <returns>The codes, to be shown once.</returns>
    public static async Task<IReadOnlyList<string>> Confirm(NpgsqlConnection db, long userId, Instant now)
    {
        var codes = Enumerable
            .Range(0, RecoveryCodes)
            .Select(_ => Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(6)))
            .Select(c => $"{c[..4]}-{c[4..8]}-{c[8..]}")
            .ToList();
        await SecondFactorStore.Confirm(db, userId, now, codes.Select(HashOf));
        return codes;
    }

    private static string HashOf(string code) =>
        LinkToken.Hash(new string(code.ToLowerInvariant().Where(char.IsAsciiLetterOrDigit).ToArray()));
}
