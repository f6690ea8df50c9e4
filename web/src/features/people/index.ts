export { AccountMenu } from './AccountMenu';
export { ChangePassword } from './ChangePassword';
export { SignIn } from './SignIn';
