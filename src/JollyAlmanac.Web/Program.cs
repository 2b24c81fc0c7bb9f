using JollyAlmanac.Web.Serving;

return CommandLine.Run(args);
