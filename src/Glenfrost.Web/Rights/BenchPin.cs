using System.Security.Cryptography;
using Glenfrost.Storage;
using Microsoft.AspNetCore.DataProtection;

namespace Glenfrost.Web.Rights;

/// <summary>
/// A PIN for the bench's own browser, where other people use the machine or a proxy hides itself. Its hash stands in the data folder; whoever may read that
/// folder may delete it, and is the bench anyway.
/// </summary>
public sealed class BenchPin(DataPlace place, IDataProtectionProvider protection, TimeProvider clock)
{
    /// <summary>Cookie of a browser that knew it.</summary>
    public const string Cookie = "glenfrost-bench";

    /// <summary>Shortest one, characters.</summary>
    public const int Least = 4;

    /// <summary>Longest one, characters.</summary>
    public const int Most = 100;

    private const int Rounds = 200_000;

    private readonly ITimeLimitedDataProtector protector = protection.CreateProtector("glenfrost.bench-pin").ToTimeLimitedDataProtector();

    private string Path => System.IO.Path.Combine(place.Folder, "pin");

    /// <summary>True where one is asked for.</summary>
    public bool IsSet => File.Exists(Path);

    /// <summary>Sets it; empty takes it away. Browsers that knew the old one are asked anew.</summary>
    public void Set(string pin)
    {
        if (pin.Length == 0)
        {
            File.Delete(Path);
            Disk.FlushFolder(place.Folder);
            return;
        }

        var salt = RandomNumberGenerator.GetBytes(16);
        Disk.Write(Path, $"{Convert.ToHexStringLower(salt)}:{Hash(pin, salt)}");
    }

    /// <summary>True where it is the right one.</summary>
    public bool IsRight(string pin) =>
        IsSet && File.ReadAllText(Path).Split(':') is [var salt, var hash]
        && CryptographicOperations.FixedTimeEquals(Convert.FromHexString(Hash(pin, Convert.FromHexString(salt))), Convert.FromHexString(hash));

    /// <summary>Remembers a browser for thirty days.</summary>
    public void Remember(HttpResponse response) => response.Cookies.Append(
        Cookie, protector.Protect(File.ReadAllText(Path), clock.GetUtcNow() + Application.Devices.DeviceBook.IdleTime),
        new CookieOptions
        {
            HttpOnly = true, SameSite = SameSiteMode.Lax, MaxAge = Application.Devices.DeviceBook.IdleTime, IsEssential = true, Path = "/",
        });

    /// <summary>True where the browser knew the PIN that is set now.</summary>
    public bool Knows(HttpRequest request)
    {
        if (request.Cookies[Cookie] is not { Length: > 0 and < 2000 } cookie)
            return false;
        try
        {
            return protector.Unprotect(cookie, out var until) == File.ReadAllText(Path) && until > clock.GetUtcNow();
        }
        catch (CryptographicException)
        {
            return false;
        }
    }

    private static string Hash(string pin, byte[] salt) => Convert.ToHexStringLower(Rfc2898DeriveBytes.Pbkdf2(pin, salt, Rounds, HashAlgorithmName.SHA256, 32));
}
